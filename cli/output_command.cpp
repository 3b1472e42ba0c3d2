#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/output.h"
#include "core/csv_table.h"
#include "core/error.h"
#include "core/method/output/output_power.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/read_text.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct OutputOptions {
  std::string file;
  double reading_u_db = 0.1;
  bool fail_on_verdict = false;
  bool json = false;
};

Figure exact(double value, const char* unit) {
  Figure f;
  f.value = value;
  f.unit = unit;
  return f;
}

/// The rows of a file by frequency and setting, each with its readings by time.
std::vector<OutputStep> read_steps(const CsvTable& table, double reading_u_db) {
  if (table.heads.empty() || (!table.column("pout_dbm") && !table.column("pout_w")))
    throw InputError(table.name, "line 1", "it has no column of output",
                     "Begin it with frequency_hz,setting,pout_w or pout_dbm");
  std::vector<OutputStep> steps;
  for (const CsvTable::Row& row : table.rows) {
    const auto number = [&](const char* head) { return number_cell(table, row, head); };
    const auto frequency = number("frequency_hz");
    const std::string setting = CsvTable::cell(row, table.column("setting"));
    OutputReading r;
    r.time_s = number("time_s").value_or(0.0);
    std::optional<double> dbm = number("pout_dbm");
    if (const auto w = number("pout_w"); w && !dbm) {
      if (*w <= 0.0) refuse_cell(table, row, "pout_w", "it is not more than 0");
      dbm = to_dbm(Watt{*w}).value;
    }
    if (dbm) {
      r.output = exact(*dbm, "dBm");
      r.output->id = "output";
      r.output->label = "Output";
      r.output->convention = "PEP";
      r.output->contributions = meter_contributions(reading_u_db);
    }
    if (const auto v = number("v_dc")) r.volts = exact(*v, "V");
    if (const auto a = number("i_dc")) r.amperes = exact(*a, "A");
    r.forward_w = number("indicated_forward_w");
    r.reflected_w = number("indicated_reflected_w");
    const auto same = std::find_if(steps.begin(), steps.end(), [&](const OutputStep& s) {
      return s.frequency_hz == frequency && s.label == setting;
    });
    OutputStep& step = same != steps.end() ? *same : steps.emplace_back();
    step.label = setting;
    step.frequency_hz = frequency;
    if (const auto spec = number("spec_w")) {
      if (*spec <= 0.0) refuse_cell(table, row, "spec_w", "it is not more than 0");
      step.specified_dbm = to_dbm(Watt{*spec}).value;
    }
    step.readings.push_back(std::move(r));
  }
  for (OutputStep& step : steps)
    std::stable_sort(step.readings.begin(), step.readings.end(),
                     [](const auto& a, const auto& b) { return a.time_s < b.time_s; });
  return steps;
}

std::string name_of(const OutputStep& step) {
  const std::string band = step.frequency_hz ? frequency_text(*step.frequency_hz) : "";
  if (band.empty()) return step.label.empty() ? "the only step" : step.label;
  return step.label.empty() ? band : band + ", " + step.label;
}

json row_json(const OutputRow& r, const std::string& setting) {
  const std::optional<Figure>& first = r.cold ? r.cold : r.hot;
  return {{"frequency_hz", number_or_null(r.frequency_hz)},
          {"setting", setting},
          {"pout_dbm", value_or_null(first)},
          {"u_db", first ? finite_or_null(first->u()) : json(nullptr)},
          {"relative_to_spec_db",
           first && r.limit ? finite_or_null(first->value - r.limit->value) : json(nullptr)},
          {"droop_db", value_or_null(r.droop)},
          {"droop_u_db", r.droop ? finite_or_null(r.droop->u()) : json(nullptr)},
          {"meter_error_db", value_or_null(r.meter_error)},
          {"indicated_vswr", number_or_null(r.indicated_vswr)},
          {"efficiency", value_or_null(r.efficiency, 0.01)}};
}

void print_table(const OutputPower& all) {
  fmt::print("{:<28} {:>14} {:>14} {:>9} {:>7} {:>10}  {}\n", "Band and setting", "Cold", "Hot",
             "Droop", "Eff.", "Meter", "Verdict");
  for (const OutputRow& r : all.rows) {
    const auto watts = [](const std::optional<Figure>& f) {
      return f ? watts_text(f->value) : std::string("\u2013");
    };
    const auto plain = [](const std::optional<Figure>& f, int decimals, const char* unit) {
      return f ? number_text(f->value, decimals, std::string(unit) == " dB") + unit
               : std::string("\u2013");
    };
    fmt::print("{:<28} {:>14} {:>14} {:>9} {:>7} {:>10}  {}\n", r.label, watts(r.cold),
               watts(r.hot), plain(r.droop, 2, " dB"), plain(r.efficiency, 0, " %"),
               plain(r.meter_error, 1, " dB"),
               r.judgement ? verdict_word(r.judgement->verdict) + ", " +
                                 number_text(r.judgement->margin, 2, true) + " dB"
                           : std::string("no specification"));
  }
  print_remarks(all.remarks);
}

int run(const OutputOptions& o) {
  const CsvTable table = parse_csv(read_text(o.file, 64), fs::path(o.file).filename().string());
  std::vector<OutputStep> steps = read_steps(table, o.reading_u_db);
  std::vector<std::string> settings;
  bool is_specified = false;
  for (OutputStep& s : steps) {
    settings.push_back(s.label);
    s.label = name_of(s);
    is_specified = is_specified || s.specified_dbm.has_value();
  }
  if (o.fail_on_verdict && !is_specified) {
    fmt::print(stderr, "even-heron-cli: --fail-on-verdict needs a column spec_w to judge by\n");
    return kWrongUsage;
  }
  const OutputPower all = assess_output(steps, std::nullopt);
  bool passed = true;
  json out = common_json("output", {o.file});
  json rows = json::array();
  for (std::size_t i = 0; i < all.rows.size(); ++i) {
    const OutputRow& r = all.rows[i];
    rows.push_back(row_json(r, settings[i]));
    for (const auto* f : {&r.cold, &r.hot, &r.droop, &r.efficiency, &r.meter_error}) {
      if (!*f) continue;
      json figure = to_json(**f);
      figure["step"] = r.label;
      out["figures"].push_back(figure);
    }
    // A specified output that nobody read was not judged.
    passed = passed && (!r.limit || (r.judgement && r.judgement->verdict == Verdict::pass));
    if (r.judgement) out["verdicts"].push_back(verdict_json(*r.judgement, *r.limit, r.label));
  }
  out["rows"] = rows;
  for (const Remark& r : all.remarks) out["remarks"].push_back(to_json(r));
  if (o.json)
    print_json(out);
  else
    print_table(all);
  return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
}

}  // namespace

CommandRun add_output_command(CLI::App& app) {
  auto o = std::make_shared<OutputOptions>();
  CLI::App* c = app.add_subcommand(
      "output", "Output power per band and setting, droop, efficiency, the device's own wattmeter");
  c->add_option("file", o->file,
                "CSV with pout_w or pout_dbm, and of frequency_hz, setting, time_s, v_dc, i_dc, "
                "indicated_forward_w, indicated_reflected_w, spec_w what there is")
      ->required();
  c->add_option("--reading-u", o->reading_u_db, "Standard uncertainty of an output, dB")
      ->check(CLI::Range(0.0, 10.0))
      ->capture_default_str();
  c->add_flag("--fail-on-verdict", o->fail_on_verdict,
              "Exit status 4 unless all verdicts are pass");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
