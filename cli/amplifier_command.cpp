#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <map>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/output.h"
#include "core/chain/chain_json.h"
#include "core/csv_table.h"
#include "core/error.h"
#include "core/method/amplifier/amplifier.h"
#include "core/method/amplifier/response.h"
#include "core/method/measure/path_level.h"
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

struct AmplifierOptions {
  std::string file;
  std::string chain_in;
  std::string chain_out;
  double input_u_db = 0.1;
  double output_u_db = 0.1;
  double repeat_u_db = 0.02;
  bool is_one_meter = false;
  std::optional<double> gain_db;
  std::string rated_in;
  std::string rated_out;
  std::string least_one_db;
  std::optional<double> supply_limit_a;
  std::optional<double> nominal_v;
  bool fail_on_verdict = false;
  bool json = false;
};

std::optional<double> level_of(const std::string& typed) {
  return typed.empty() ? std::nullopt : std::optional(parse_quantity(typed, Quantity::level).value);
}

std::optional<Chain> chain_at(const std::string& path) {
  return path.empty() ? std::nullopt : std::optional(read_chain(path));
}

/// Levels as they are at the device, from those at the instruments where chains say how.
class Levels {
 public:
  explicit Levels(const AmplifierOptions& o)
      : o_(o), in_(chain_at(o.chain_in)), out_(chain_at(o.chain_out)) {}

  Figure input(double dbm, double hz) const {
    if (o_.is_one_meter) return output(dbm, hz);
    Figure f = level("Drive", dbm, "drive level", o_.input_u_db);
    if (!in_) return f;
    // From the generator to the device.
    f.value += total_gain_db(*in_, hz) - (in_->is_source_in_emf ? db_from_voltage_ratio(2.0) : 0.0);
    for (const Contribution& c : level_contributions(*in_, hz)) f.contributions.push_back(c);
    if (in_->source_u_db > 0.0)
      f.contributions.push_back({"generator", in_->source_u_db, Scope::common});
    return f;
  }
  Figure output(double dbm, double hz) const {
    Figure f =
        level("Output", dbm, o_.is_one_meter ? "power meter" : "output level", o_.output_u_db);
    if (!out_) return f;
    f.value -= total_gain_db(*out_, hz);
    for (const Contribution& c : level_contributions(*out_, hz)) f.contributions.push_back(c);
    return f;
  }
  bool is_emf() const { return in_ && in_->is_source_in_emf; }

 private:
  Figure level(const char* label, double dbm, const char* source, double u) const {
    Figure f;
    f.id = label == std::string("Drive") ? "input" : "output";
    f.label = label;
    f.unit = "dBm";
    f.value = dbm;
    f.contributions = {{source, u, Scope::common},
                       {"one reading", o_.repeat_u_db, Scope::independent}};
    return f;
  }
  const AmplifierOptions& o_;
  std::optional<Chain> in_;
  std::optional<Chain> out_;
};

Figure read(double value, const char* unit, double relative_u) {
  Figure f;
  f.unit = unit;
  f.value = value;
  f.contributions = {{"meter", relative_u * std::abs(value), Scope::common}};
  return f;
}

/// A level in dBm or W; nullopt of an empty cell.
std::optional<double> level_cell(const CsvTable& table, const CsvTable::Row& row,
                                 const std::string& stem) {
  if (const auto dbm = number_cell(table, row, stem + "_dbm")) return dbm;
  const auto w = number_cell(table, row, stem + "_w");
  if (!w) return std::nullopt;
  if (*w <= 0.0) refuse_cell(table, row, stem + "_w", "it is not more than 0");
  return to_dbm(Watt{*w}).value;
}

std::vector<DrivenStep> read_steps(const CsvTable& table, const Levels& levels) {
  const auto has = [&](const char* stem) {
    return table.column(std::string(stem) + "_dbm") || table.column(std::string(stem) + "_w");
  };
  if (table.heads.empty() || !has("pout") || (!has("pin") && !has("pin_before")))
    throw InputError(table.name, "line 1", "it has no columns of drive and output",
                     "Begin it with pin_dbm,pout_dbm, and of frequency_hz, pin_before_dbm, "
                     "pin_after_dbm, v_dc, i_dc, "
                     "h2_dbc, h3_dbc what there is");
  std::vector<DrivenStep> steps;
  for (const CsvTable::Row& row : table.rows) {
    DrivenStep s;
    s.frequency_hz = number_cell(table, row, "frequency_hz");
    if (s.frequency_hz && *s.frequency_hz <= 0.0)
      refuse_cell(table, row, "frequency_hz", "it is not more than 0");
    const double hz = s.frequency_hz.value_or(0.0);
    auto before = level_cell(table, row, "pin_before");
    if (!before) before = level_cell(table, row, "pin");
    if (before) s.input_before = levels.input(*before, hz);
    if (const auto after = level_cell(table, row, "pin_after"))
      s.input_after = levels.input(*after, hz);
    if (const auto out = level_cell(table, row, "pout")) s.output = levels.output(*out, hz);
    if (const auto v = number_cell(table, row, "v_dc")) {
      if (*v <= 0.0) refuse_cell(table, row, "v_dc", "it is not more than 0");
      s.volts = read(*v, "V", 0.005);
    }
    if (const auto a = number_cell(table, row, "i_dc")) {
      if (*a < 0.0) refuse_cell(table, row, "i_dc", "it is below 0");
      s.amperes = read(*a, "A", 0.01);
    }
    s.second_dbc = number_cell(table, row, "h2_dbc");
    s.third_dbc = number_cell(table, row, "h3_dbc");
    s.label = CsvTable::cell(row, table.column("step"));
    if (s.label.empty()) s.label = fmt::format("line {}", row.line);
    steps.push_back(std::move(s));
  }
  return steps;
}

/// Those at the frequency with the most different drives, in the order given; where no frequency
/// has two, none but the first.
std::vector<std::size_t> series_of(const std::vector<DrivenStep>& steps) {
  std::map<double, std::vector<std::size_t>> by_frequency;
  for (std::size_t i = 0; i < steps.size(); ++i)
    by_frequency[steps[i].frequency_hz.value_or(0.0)].push_back(i);
  const auto most = std::max_element(
      by_frequency.begin(), by_frequency.end(),
      [](const auto& a, const auto& b) { return a.second.size() < b.second.size(); });
  return most == by_frequency.end() ? std::vector<std::size_t>{} : most->second;
}

json step_json(const DrivenStep& from, const DrivenRow& r) {
  return {{"step", r.label},
          {"frequency_hz", number_or_null(from.frequency_hz)},
          {"pin_dbm", value_or_null(r.input)},
          {"pout_dbm", value_or_null(r.output)},
          {"gain_db", value_or_null(r.gain)},
          {"u_db", r.gain ? finite_or_null(r.gain->u()) : json(nullptr)},
          {"compression_db", value_or_null(r.compression)},
          {"creep_db", number_or_null(r.creep_db)},
          {"efficiency", value_or_null(r.efficiency, 0.01)},
          {"pae", value_or_null(r.added_efficiency, 0.01)},
          {"heat_w", value_or_null(r.heat)}};
}

json response_json(const Response& r) {
  json all = json::array();
  if (r.sweeps.empty()) return all;
  const ResponseSweep& s = r.sweeps.front();
  const double highest = s.points[s.highest].gain.value;
  for (const ResponsePoint& p : s.points)
    all.push_back({{"frequency_hz", p.frequency_hz},
                   {"gain_db", p.gain.value},
                   {"u_db", finite_or_null(p.gain.u())},
                   {"relative_db", p.gain.value - highest}});
  return all;
}

json edges_json(const Response& r) {
  json all = json::array();
  if (r.sweeps.empty()) return all;
  for (const ResponseEdge& e : r.sweeps.front().edges) {
    json edge = {{"down_db", e.down_db},
                 {"side", e.is_lower ? "lower" : "upper"},
                 {"frequency_hz", number_or_null(e.hz)},
                 {"u_hz", e.hz ? json(e.u_hz) : json(nullptr)}};
    if (e.between) edge["between_hz"] = {e.between->first, e.between->second};
    all.push_back(edge);
  }
  return all;
}

Response response_of(const std::vector<DrivenStep>& steps, const Amplification& series) {
  std::vector<ResponseReading> readings;
  for (const DrivenStep& s : steps) {
    ResponseReading r;
    r.label = s.label;
    r.frequency_hz = s.frequency_hz;
    r.input = drive_between(s.input_before, s.input_after);
    r.output = s.output;
    r.amperes = s.amperes;
    if (r.frequency_hz) readings.push_back(std::move(r));
  }
  ResponsePlan plan;
  if (series.rising.size() > 1) plan.series = &series;
  return assess_response(readings, plan);
}

void print_table(const Amplification& a, const Response& response) {
  const auto text = [](const std::optional<Figure>& f, int decimals, bool sign = false) {
    return f ? number_text(f->value, decimals, sign) : std::string("\u2013");
  };
  fmt::print("{:<18} {:>10} {:>10} {:>9} {:>8} {:>7} {:>7} {:>8}\n", "Step", "In, dBm", "Out, dBm",
             "Gain, dB", "dB down", "Eff., %", "PAE, %", "Heat, W");
  for (const DrivenRow& r : a.rows)
    fmt::print("{:<18} {:>10} {:>10} {:>9} {:>8} {:>7} {:>7} {:>8}\n", r.label,
               text(r.input, 2, true), text(r.output, 2, true), text(r.gain, 2),
               text(r.compression, 2), text(r.efficiency, 0), text(r.added_efficiency, 0),
               text(r.heat, 1));
  if (a.gain) fmt::print("Small-signal gain   {}\n", figure_text(*a.gain));
  if (a.one_db_out)
    fmt::print("1 dB compression    {} ({})\n", figure_text(*a.one_db_out),
               watts_text(a.one_db_out->value));
  if (a.needed_a) fmt::print("Rated output needs  {}\n", figure_text(*a.needed_a));
  if (!response.sweeps.empty() && response.sweeps.front().points.size() > 1) {
    const ResponseSweep& s = response.sweeps.front();
    fmt::print("\n{:<14} {:>9} {:>10}\n", "Frequency", "Gain, dB", "re highest");
    for (const ResponsePoint& p : s.points)
      fmt::print("{:<14} {:>9} {:>10}\n", frequency_text(p.frequency_hz),
                 number_text(p.gain.value, 2),
                 number_text(p.gain.value - s.points[s.highest].gain.value, 2));
  }
}

int run(const AmplifierOptions& o) {
  const CsvTable table = parse_csv(read_text(o.file, 64), fs::path(o.file).filename().string());
  const Levels levels(o);
  const std::vector<DrivenStep> steps = read_steps(table, levels);
  AmplifierPlan plan;
  plan.specified_gain_db = o.gain_db;
  plan.rated_input_dbm = level_of(o.rated_in);
  plan.rated_output_dbm = level_of(o.rated_out);
  plan.supply_limit_a = o.supply_limit_a;
  plan.nominal_v = o.nominal_v;
  plan.is_drive_in_emf = levels.is_emf();
  if (const auto least = level_of(o.least_one_db))
    plan.compression_limit = Limit{"option", Sense::at_least, *least, "dBm", "", kGainMarginSpanDb};
  if (o.fail_on_verdict && !plan.compression_limit && !plan.wanted_gain_db()) {
    fmt::print(stderr,
               "even-heron-cli: --fail-on-verdict needs --gain, --least-p1db, or --rated-in with "
               "--rated-out\n");
    return kWrongUsage;
  }
  const std::vector<std::size_t> of_series = series_of(steps);
  std::vector<DrivenStep> series;
  for (const std::size_t i : of_series) series.push_back(steps[i]);
  const Amplification a = assess_amplifier(series, plan);
  const Response response = response_of(steps, a);
  if (a.rising.empty() && response.sweeps.empty())
    throw InputError(table.name, "", "no row has a drive and an output above it",
                     a.remarks.empty() ? "Give pin_dbm and pout_dbm" : a.remarks.front().text);
  json out = common_json("amplifier", {o.file});
  out["small_signal_gain_db"] = value_or_null(a.gain);
  out["small_signal_gain_u_db"] = a.gain ? finite_or_null(a.gain->u()) : json(nullptr);
  out["p1db_out_dbm"] = value_or_null(a.one_db_out);
  out["p1db_bound"] =
      a.one_db_out && a.one_db_out->bound == Bound::lower ? json("lower") : json(nullptr);
  out["p1db_u_db"] = a.one_db_out ? finite_or_null(a.one_db_out->u()) : json(nullptr);
  out["p1db_in_dbm"] = value_or_null(a.one_db_in);
  out["max_efficiency"] =
      a.most_efficient ? value_or_null(a.rows[*a.most_efficient].efficiency, 0.01) : json(nullptr);
  out["needed_current_a"] = value_or_null(a.needed_a);
  json rows = json::array();
  for (std::size_t i = 0; i < a.rows.size(); ++i) rows.push_back(step_json(series[i], a.rows[i]));
  out["steps"] = rows;
  out["response"] = response_json(response);
  out["edges"] = edges_json(response);
  bool passed = true;
  const auto judged = [&](const std::optional<Judgement>& j, const std::optional<Limit>& limit,
                          const char* figure) {
    if (!j || !limit) return;
    passed = passed && j->verdict == Verdict::pass;
    out["verdicts"].push_back(verdict_json(*j, *limit, figure));
  };
  const auto at_least = [](const std::optional<double>& value,
                           const char* unit) -> std::optional<Limit> {
    if (!value) return std::nullopt;
    return Limit{"option", Sense::at_least, *value, unit, "", kGainMarginSpanDb};
  };
  judged(a.one_db_judgement, plan.compression_limit, "1 dB compression point");
  judged(a.gain_judgement, at_least(plan.specified_gain_db, "dB"), "small-signal gain");
  judged(a.rated_judgement, at_least(plan.rated_output_dbm, "dBm"), "output at rated drive");
  for (const auto* f : {&a.gain, &a.one_db_out, &a.one_db_in, &a.at_rated})
    if (*f) out["figures"].push_back(to_json(**f));
  std::vector<Remark> remarks = a.remarks;
  const bool is_response =
      response.sweeps.empty() ? false : response.sweeps.front().points.size() > 1;
  if (is_response) remarks.insert(remarks.end(), response.remarks.begin(), response.remarks.end());
  if (is_response && series.size() < steps.size() && series.size() > 1)
    remarks.push_back(
        {"frequencies", Severity::note,
         fmt::format("Steps are of {}; {} rows at other frequencies count for the response only.",
                     frequency_text(series.front().frequency_hz.value_or(0.0)),
                     steps.size() - series.size()),
         ""});
  sort_remarks(remarks);
  for (const Remark& r : remarks) out["remarks"].push_back(to_json(r));
  if (o.json) {
    print_json(out);
  } else {
    print_table(a, response);
    print_remarks(remarks);
  }
  return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
}

}  // namespace

CommandRun add_amplifier_command(CLI::App& app) {
  auto o = std::make_shared<AmplifierOptions>();
  CLI::App* c = app.add_subcommand(
      "amplifier", "Gain, compression, efficiency, heat and frequency response of an amplifier");
  c->add_option("file", o->file,
                "CSV with pin_dbm (or pin_before_dbm, pin_after_dbm) and pout_dbm, and of "
                "frequency_hz, v_dc, i_dc, h2_dbc, "
                "h3_dbc what there is; levels in W as pin_w, pout_w")
      ->required();
  c->add_option("--chain-in", o->chain_in,
                "Chain file from the generator to the device: drives are those at the generator");
  c->add_option("--chain-out", o->chain_out,
                "Chain file from the device to the meter: outputs are those at the meter");
  c->add_flag("--one-meter", o->is_one_meter,
              "Drive and output were read with one meter through --chain-out, device bypassed, "
              "then in line");
  c->add_option("--input-u", o->input_u_db, "Standard uncertainty of the drive, dB")
      ->check(CLI::Range(0.0, 10.0))
      ->capture_default_str();
  c->add_option("--output-u", o->output_u_db, "Standard uncertainty of the output, dB")
      ->check(CLI::Range(0.0, 10.0))
      ->capture_default_str();
  c->add_option("--repeat-u", o->repeat_u_db, "How well one reading repeats, dB")
      ->check(CLI::Range(0.0, 10.0))
      ->capture_default_str();
  c->add_option("--gain", o->gain_db, "Specified gain, dB");
  c->add_option("--rated-in", o->rated_in, "Rated drive, such as \"3 W\"");
  c->add_option("--rated-out", o->rated_out, "Rated output, such as \"60 W\"");
  c->add_option("--least-p1db", o->least_one_db,
                "Limit of the 1 dB compression point, such as \"47 dBm\"");
  c->add_option("--supply-limit", o->supply_limit_a, "Current at which the supply stops, A")
      ->check(CLI::PositiveNumber);
  c->add_option("--nominal-volts", o->nominal_v, "Nominal supply, V")->check(CLI::PositiveNumber);
  c->add_flag("--fail-on-verdict", o->fail_on_verdict,
              "Exit status 4 unless all verdicts are pass");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
