#include <CLI/CLI.hpp>
#include <fmt/format.h>
#include <map>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/frequency_output.h"
#include "cli/level_cell.h"
#include "cli/output.h"
#include "core/error.h"
#include "core/method/receiver/indicator.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;

struct IndicatorOptions {
  std::string file;
  std::optional<double> s9_dbm;
  double u_db = 0.5;
  bool json = false;
};

json scale_json(const IndicatorScale& s) {
  json out;
  out["kind"] = s.is_segments ? "segments" : "s-units";
  out["s9_dbm"] = value_or_null(s.s9);
  out["s9_error_db"] = value_or_null(s.s9_error);
  out["points"] = json::array();
  for (std::size_t i = 0; i < s.points.size(); ++i) {
    const IndicatorPoint& p = s.points[i];
    json point{{"level_dbm", finite_or_null(p.level_dbm)}};
    point["reading"] =
        s.is_segments ? fmt::format("{:g}", p.reading.segments) : indicator_text(p.reading.db);
    point["reading_db"] = s.is_segments ? json(nullptr) : finite_or_null(p.reading.db);
    point["error_db"] = s.is_segments ? json(nullptr) : finite_or_null(s.errors_db[i]);
    out["points"].push_back(std::move(point));
  }
  out["slopes"] = json::array();
  for (const IndicatorSlope& slope : s.slopes)
    out["slopes"].push_back({{"from", indicator_text(slope.from_db)},
                             {"to", indicator_text(slope.to_db)},
                             {"db_per_unit", finite_or_null(slope.db_per_unit)}});
  return out;
}

void print_scale(const IndicatorScale& s) {
  if (s.s9)
    fmt::print("S9 at {}, {} dB too {}\n", figure_text(*s.s9),
               number_text(std::abs(s.s9_error->value), 1),
               s.s9_error->value >= 0.0 ? "early" : "late");
  for (std::size_t i = 0; i < s.points.size(); ++i) {
    const IndicatorPoint& p = s.points[i];
    if (s.is_segments)
      fmt::print("{} dBm: {:g} segments\n", number_text(p.level_dbm, 1), p.reading.segments);
    else
      fmt::print("{} dBm: {}, {} dB\n", number_text(p.level_dbm, 1), indicator_text(p.reading.db),
                 number_text(s.errors_db[i], 1, true));
  }
  const std::string words = range_words(s);
  if (!words.empty()) fmt::print("{}\n", words);
}

int run(const IndicatorOptions& o) {
  const CsvTable table = table_of(o.file);
  if ((!table.column("level_dbm") && !table.column("level")) || !table.column("reading"))
    throw InputError(table.name, "line 1", "it has no columns level_dbm and reading",
                     "Begin it with level_dbm,reading");
  // Without a frequency all rows are one band.
  std::map<double, std::vector<IndicatorPoint>> bands;
  for (const CsvTable::Row& row : table.rows) {
    IndicatorPoint p;
    const auto level = table.column("level_dbm") ? number_cell(table, row, "level_dbm")
                                                 : level_cell(table, row, "level", "level_unit");
    if (!level) refuse_cell(table, row, "level", "it is empty", "Fill it in");
    p.level_dbm = *level;
    p.u_db = o.u_db;
    const std::string text = CsvTable::cell(row, table.column("reading"));
    p.reading = read_cell(table, row, "reading", [&] { return parse_indicator(text); });
    bands[number_cell(table, row, "frequency_hz").value_or(0.0)].push_back(p);
  }
  if (bands.empty()) throw InputError(table.name, "", "it holds no reading", "Add one a line");
  json out = common_json("indicator", {o.file});
  std::vector<Remark> remarks;
  json all = json::array();
  for (auto& [hz, points] : bands) {
    const double s9 = o.s9_dbm.value_or(hz > 0.0 ? usual_s9_dbm(hz) : kS9Hf);
    const IndicatorScale scale = indicator_scale(points, s9);
    const std::string where = hz > 0.0 ? fmt::format("{:g} MHz: ", hz / 1e6) : std::string();
    for (const Remark& r : scale.remarks)
      remarks.push_back({r.code, r.severity, where + r.text, r.action});
    json one = scale_json(scale);
    if (scale.s9) out["figures"].push_back(to_json(*scale.s9));
    if (!o.json) {
      if (hz > 0.0) fmt::print("{:g} MHz\n", hz / 1e6);
      print_scale(scale);
    }
    if (all.empty()) out.update(one);
    if (hz > 0.0) {
      one["frequency_hz"] = hz;
      all.push_back(std::move(one));
    }
  }
  out["bands"] = std::move(all);
  if (!o.json) {
    print_remarks(remarks);
    return kDone;
  }
  add_remarks(out, remarks);
  print_json(out);
  return kDone;
}

}  // namespace

CommandRun add_indicator_command(CLI::App& app) {
  auto o = std::make_shared<IndicatorOptions>();
  CLI::App* c = app.add_subcommand("indicator", "What a signal indicator really means");
  c->add_option("file", o->file, "CSV with level_dbm and reading")->required();
  c->add_option("--s9-dbm", o->s9_dbm, "Level that S9 should be, dBm")
      ->check(CLI::Range(-150.0, 0.0));
  c->add_option("--u-level", o->u_db, "Standard uncertainty of a level and its reading, dB")
      ->check(CLI::NonNegativeNumber)
      ->capture_default_str();
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
