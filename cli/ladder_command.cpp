#include <CLI/CLI.hpp>
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <fmt/format.h>
#include <memory>

#include "cli/csv_cell.h"
#include "cli/output.h"
#include "cli/recording_options.h"
#include "core/chain/chain_json.h"
#include "core/csv_table.h"
#include "core/error.h"
#include "core/method/result_json.h"
#include "core/method/two_tone/two_tone_take.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"
#include "core/read_text.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::uintmax_t kLargestCsvMb = 64;
constexpr double kTypedOutputU = 0.1;  // dB

struct LadderOptions {
  std::string file;
  std::string kind = "power";
  double limit_db = -36.0;
  std::string limit_relative = "pep";
  std::string chain_file;
  std::optional<double> center_hz;
  std::optional<double> full_scale_dbm;
  std::string ceiling;
  std::string amplifier_file;
  std::string pair_file;
  double reading_u_db = 0.5;
  std::optional<double> linearity_u_db;
  std::string date;
  bool fail_on_verdict = false;
  bool json = false;
};

std::optional<Reading> output_of(const CsvTable& table, const CsvTable::Row& row) {
  for (const auto& [head, unit] : {std::pair{"pout_dbm", "dBm"}, {"pout_w", "W"}, {"pout", "W"}}) {
    const std::string cell = CsvTable::cell(row, table.column(head));
    if (cell.empty()) continue;
    Reading output;
    output.quantity = "output";
    output.unit = "dBm";
    output.convention = "PEP";
    output.value = read_cell(table, row, head, [&] {
      QuantityOptions options;
      options.default_unit = unit;
      options.is_two_tone = true;
      return parse_quantity(cell, Quantity::level, options).value;
    });
    output.u = kTypedOutputU;
    output.typed = cell;
    return output;
  }
  return std::nullopt;
}

/// Products typed at a step, as readings.
std::vector<Reading> readings_of(const CsvTable& table, const CsvTable::Row& row) {
  std::vector<Reading> readings;
  for (int order = 3; order <= 15; order += 2) {
    for (const auto& [ending, convention] :
         {std::pair{"_dbc", kReOneTone}, {"_db_pep", kRePep}, {"", kReOneTone}}) {
      const std::string head = fmt::format("im{}{}", order, ending);
      const std::string cell = CsvTable::cell(row, table.column(head));
      if (cell.empty()) continue;
      readings.push_back(to_reading(
          read_cell(table, row, head, [&] { return parse_product(cell, order, convention); })));
      break;
    }
  }
  return readings;
}

AnalysisPtr analyse_capture(const LadderOptions& o, const fs::path& path,
                            const std::optional<Chain>& chain) {
  TwoToneAnalysis a;
  if (lower_case(path.extension().string()) == ".csv") {
    a = analyse_trace(parse_trace(read_text(path, kLargestCsvMb), path.filename().string()));
  } else {
    TwoToneSettings settings;
    settings.full_scale_dbm = o.full_scale_dbm;
    a = analyse_two_tone(capture_opener(path), settings,
                         terminal_progress(path.filename().string()));
  }
  if (!a.capture.center_hz) a.capture.center_hz = o.center_hz;
  if (chain && !a.capture.center_hz && depends_on_frequency(*chain))
    throw InputError(path.filename().string(), "",
                     "it does not say which radio frequency is at 0 Hz", "Give it with --center");
  return std::make_shared<const TwoToneRecord>(std::move(a));
}

/// A ladder in a file as evidence of a test.
Evidence read_ladder(const LadderOptions& o, const std::string& file,
                     const std::optional<Chain>& chain) {
  const fs::path path(file);
  const CsvTable table = parse_csv(read_text(path, kLargestCsvMb), path.filename().string());
  if (table.heads.empty())
    throw InputError(table.name, "line 1", "it has no heads",
                     "Begin it with setting,pout_dbm,capture or setting,pout_dbm,im3_dbc,im5_dbc");
  const auto setting = table.column("setting");
  LadderSettings settings;
  settings.reading_u_db = o.reading_u_db;
  if (o.linearity_u_db) settings.linearity_db = 2.0 * *o.linearity_u_db;
  Evidence e;
  e.settings = with_ladder_settings(json::object(), settings);
  bool has_any = false;
  for (const CsvTable::Row& row : table.rows) {
    EvidenceStep step;
    step.label = CsvTable::cell(row, setting);
    if (step.label.empty()) step.label = fmt::format("line {}", row.line);
    step.readings = readings_of(table, row);
    const std::string capture = CsvTable::cell(row, table.column("capture"));
    if (!capture.empty()) {
      step.analysis = analyse_capture(o, path.parent_path() / capture, chain);
      step.path = chain;
    }
    has_any = has_any || step.analysis != nullptr || !step.readings.empty();
    if (auto output = output_of(table, row)) step.readings.push_back(std::move(*output));
    e.steps.push_back(std::move(step));
  }
  if (!has_any)
    throw InputError(table.name, "", "no row has a capture or products",
                     "Give a column capture, or columns such as im3_dbc");
  return e;
}

json number_or_null(const std::optional<double>& value) {
  return value ? finite_or_null(*value) : json(nullptr);
}

json step_json(const TwoToneTake& ladder, std::size_t i) {
  const TwoToneLadder& result = ladder.ladder;
  const auto& output = ladder.outputs[i];
  json out = {{"setting", ladder.labels[i]},
              {"pout_dbm", output ? json(output->value) : json(nullptr)},
              {"pout_w", output ? json(to_watt(Dbm{output->value}).value) : json(nullptr)},
              {"u_pout_db", output ? json(output->u()) : json(nullptr)},
              {"products", json::array()}};
  const auto& a = ladder.analyses[i];
  const TwoToneProduct* worst = a ? a->worst() : nullptr;
  out["worst_dbc"] = worst != nullptr ? json(worst->level_dbc) : json(nullptr);
  out["worst_db_pep"] = worst != nullptr ? json(worst->level_db_pep) : json(nullptr);
  out["worst_order"] = worst != nullptr ? json(worst->order) : json(nullptr);
  out["u_db"] = worst != nullptr && !worst->is_bound
                    ? json(product_figure(*a, *worst, kReOneTone).u())
                    : json(nullptr);
  out["bound"] = worst != nullptr && worst->is_bound ? json("upper") : json(nullptr);
  out["dominant_order"] = result.rows[i].dominant_order;
  out["verdict"] = verdict_id(result.rows[i].judgement.verdict);
  out["margin_db"] =
      worst != nullptr ? finite_or_null(result.rows[i].judgement.margin) : json(nullptr);
  if (!a) return out;
  for (int order = 3; order <= 15; order += 2) {
    const TwoToneProduct* p = a->worse_side(order);
    if (p == nullptr) continue;
    out["products"].push_back(
        {{"order", order},
         {"side",
          a->rbw_hz == 0.0 ? json(nullptr) : json(p->side == Side::lower ? "lower" : "upper")},
         {"level_dbc", p->level_dbc},
         {"level_db_pep", p->level_db_pep},
         {"bound", p->is_bound ? json("upper") : json(nullptr)}});
  }
  return out;
}

json driven_json(const DrivenAmplifier& driven) {
  json points = json::array();
  for (const DrivenPoint& p : driven.points)
    points.push_back({{"exciter_dbm", p.exciter_dbm},
                      {"amplifier_dbm", p.amplifier_dbm},
                      {"power_sum_db", number_or_null(p.power_sum_db)},
                      {"in_phase_db", p.in_phase_db},
                      {"u_db", p.u_db},
                      {"order", p.order}});
  json measured = json::array();
  for (const DrivenComparison& m : driven.measured)
    measured.push_back({{"exciter_dbm", m.exciter_dbm},
                        {"measured_db", m.measured_db},
                        {"power_sum_db", number_or_null(m.power_sum_db)},
                        {"in_phase_db", m.in_phase_db},
                        {"place", m.place < 0   ? "below"
                                  : m.place > 0 ? "above"
                                                : "within"}});
  return {{"points", points},
          {"measured", measured},
          {"exciter_at_limit_dbm", number_or_null(driven.exciter_at_limit_dbm)},
          {"amplifier_at_limit_dbm", number_or_null(driven.amplifier_at_limit_dbm)}};
}

int run(const LadderOptions& o) {
  std::optional<Chain> chain;
  if (!o.chain_file.empty()) chain = aged(read_chain(o.chain_file), o.date);
  Evidence evidence = read_ladder(o, o.file, chain);
  evidence.convention = o.limit_relative == "pep" ? kRePep : kReOneTone;
  evidence.limit =
      Limit{"command line", Sense::at_most, o.limit_db, "dB", evidence.convention, 20.0};
  const Limit& limit = *evidence.limit;
  if (!o.amplifier_file.empty()) {
    const auto read = [&](const std::string& file) {
      return file.empty() ? nullptr
                          : std::make_shared<const Evidence>(read_ladder(o, file, std::nullopt));
    };
    evidence.driven = DrivenDevice{fs::path(o.amplifier_file).stem().string(),
                                   read(o.amplifier_file), read(o.pair_file)};
  }
  if (!o.ceiling.empty()) {
    QuantityOptions watts;
    watts.default_unit = "W";
    evidence.settings["ladder"]["ceiling_dbm"] =
        parse_quantity(o.ceiling, Quantity::level, watts).value;
  }
  const TwoToneTake ladder = take_two_tone(evidence);
  const TwoToneLadder& result = ladder.ladder;
  const LadderAdvice& advice = ladder.advice;
  std::vector<Remark> remarks = remarks_of(ladder);
  sort_remarks(remarks);
  const bool passed = result.sweet_spot.has_value();
  if (!o.json) {
    fmt::print("{:<16}{:>10}{:>12}{:>8}{:>14}  {}\n", "setting", "W PEP", "worst, dB", "order",
               "\u00b1 dB", "verdict");
    for (std::size_t i = 0; i < ladder.labels.size(); ++i) {
      const LadderRow& row = result.rows[i];
      fmt::print("{:<16}{:>10}{:>13}{:>8}{:>13}  {}{}\n", ladder.labels[i],
                 row.output_dbm ? number_text(to_watt(Dbm{*row.output_dbm}).value, 2) : "",
                 row.worst ? format_figure(*row.worst).shown() : "", row.worst_order,
                 row.worst ? format_figure(*row.worst).uncertainty : "",
                 verdict_word(row.judgement.verdict), result.sweet_spot == i ? ", sweet spot" : "");
    }
    print_remarks(remarks);
    return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
  }
  json out = common_json("ladder", {o.file});
  out["kind"] = o.kind;
  out["steps"] = json::array();
  for (std::size_t i = 0; i < ladder.labels.size(); ++i)
    out["steps"].push_back(step_json(ladder, i));
  const auto named = [&](const std::optional<std::size_t>& step) {
    return step ? step_json(ladder, *step) : json(nullptr);
  };
  out["sweet_spot"] = named(result.sweet_spot);
  out["quietest"] = named(result.quietest);
  out["limit_reached"] = nullptr;
  if (advice.at_limit)
    out["limit_reached"] = {
        {"pout_dbm", advice.at_limit->output_dbm},
        {"pout_w", to_watt(Dbm{advice.at_limit->output_dbm}).value},
        {"u_db", advice.at_limit->u_db},
        {"sure_dbm", number_or_null(advice.at_limit->sure_dbm)},
        {"bound", advice.at_limit->is_at_least ? json("lower") : json(nullptr)}};
  out["dominance_changes"] = json::array();
  for (const DominanceChange& c : result.dominance_changes)
    out["dominance_changes"].push_back({{"from_order", c.from_order},
                                        {"to_order", c.to_order},
                                        {"lower_dbm", c.lower_dbm},
                                        {"upper_dbm", c.upper_dbm},
                                        {"crossing_dbm", c.crossing_dbm},
                                        {"u_db", c.u_db}});
  out["im3_slope"] = number_or_null(result.im3_slope);
  out["oip3_dbm"] = result.oip3 ? json(result.oip3->value) : json(nullptr);
  out["at_ceiling"] = advice.at_ceiling ? to_json(advice.at_ceiling->figure) : json(nullptr);
  if (!ladder.amplifier.empty()) out["driven"] = driven_json(ladder.driven);
  if (result.oip3) out["figures"].push_back(to_json(*result.oip3));
  for (std::size_t i = 0; i < result.rows.size(); ++i) {
    if (result.rows[i].worst)
      out["verdicts"].push_back(verdict_json(result.rows[i].judgement, limit, ladder.labels[i]));
  }
  out["remarks"] = remarks_to_json(remarks);
  print_json(out);
  return o.fail_on_verdict && !passed ? kVerdictNotPass : kDone;
}

}  // namespace

CommandRun add_ladder_command(CLI::App& app) {
  auto o = std::make_shared<LadderOptions>();
  CLI::App* c = app.add_subcommand(
      "ladder", "Drive steps of a two-tone test: sweet spot, dominant order, amplifier behind");
  c->add_option("file", o->file,
                "CSV: setting, pout_dbm (or pout_w, pout), capture or im3_dbc, im5_dbc, \u2026")
      ->required();
  c->add_option("--kind", o->kind, "What is stepped")
      ->check(CLI::IsMember({"power"}))
      ->capture_default_str();
  c->add_option("--limit", o->limit_db, "Worst product allowed, dB")->capture_default_str();
  c->add_option("--limit-relative", o->limit_relative, "The limit is relative to")
      ->check(CLI::IsMember({"pep", "one-tone"}))
      ->capture_default_str();
  c->add_option("--chain", o->chain_file, "Hook-up of the captures (chain file)");
  c->add_option("--center", o->center_hz, "Radio frequency at 0 Hz of the captures");
  c->add_option("--full-scale-dbm", o->full_scale_dbm,
                "A full-scale sinusoid at the sampler input");
  c->add_option("--ceiling", o->ceiling, "Maximum output to be used, such as 25 W");
  c->add_option("--amplifier", o->amplifier_file,
                "Ladder of the amplifier behind, measured alone; settings are its drive");
  c->add_option("--pair", o->pair_file,
                "Ladder of both together; settings are the exciter's output");
  add_linearity_option(*c, o->linearity_u_db);
  c->add_option("--reading-u", o->reading_u_db, "Standard uncertainty of a typed product, dB")
      ->check(CLI::NonNegativeNumber)
      ->capture_default_str();
  c->add_option("--date", o->date,
                "Day of the recordings, for the age of calibrations (2026-03-14)");
  c->add_flag("--fail-on-verdict", o->fail_on_verdict,
              "Exit status 4 unless a step passes the limit");
  c->add_flag("--json", o->json, "One JSON object");
  return [o] { return run(*o); };
}

}  // namespace heron
