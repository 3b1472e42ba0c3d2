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
#include "core/method/measure/path_level.h"
#include "core/method/two_tone/driven_amplifier.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/method/two_tone/refer_two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/method/two_tone/two_tone_typed.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"
#include "core/read_text.h"
#include "report/json.h"

namespace heron {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::uintmax_t kLargestCsvMb = 64;

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

/// A ladder read from a file: the analyses belong to it.
struct Ladder {
  std::vector<std::string> settings;
  std::vector<std::optional<TwoToneAnalysis>> analyses;
  std::vector<std::optional<Figure>> outputs;
  std::vector<TypedStep> typed;
  std::vector<LadderStep> evidence() const {
    std::vector<LadderStep> steps;
    for (std::size_t i = 0; i < settings.size(); ++i)
      steps.push_back({settings[i], outputs[i], analyses[i] ? &*analyses[i] : nullptr});
    return steps;
  }
  std::vector<AmplifierStep> driven() const {
    std::vector<AmplifierStep> steps;
    for (std::size_t i = 0; i < settings.size(); ++i) {
      const auto drive = drive_of_label(settings[i]);
      if (drive && outputs[i] && analyses[i] && !analyses[i]->products.empty())
        steps.push_back({*drive, outputs[i]->value, &*analyses[i]});
    }
    return steps;
  }
};

std::optional<Figure> output_of(const CsvTable& table, const CsvTable::Row& row) {
  for (const auto& [head, unit] : {std::pair{"pout_dbm", "dBm"}, {"pout_w", "W"}, {"pout", "W"}}) {
    const std::string cell = CsvTable::cell(row, table.column(head));
    if (cell.empty()) continue;
    Figure output;
    output.id = "output";
    output.unit = "dBm";
    output.convention = "PEP";
    output.value = read_cell(table, row, head, [&] {
      QuantityOptions options;
      options.default_unit = unit;
      options.is_two_tone = true;
      return parse_quantity(cell, Quantity::level, options).value;
    });
    output.contributions = {{kTypedOutput, 0.1, Scope::common}};
    return output;
  }
  return std::nullopt;
}

std::vector<TypedProduct> products_of(const CsvTable& table, const CsvTable::Row& row) {
  std::vector<TypedProduct> products;
  for (int order = 3; order <= 15; order += 2) {
    for (const auto& [ending, convention] :
         {std::pair{"_dbc", kReOneTone}, {"_db_pep", kRePep}, {"", kReOneTone}}) {
      const std::string head = fmt::format("im{}{}", order, ending);
      const std::string cell = CsvTable::cell(row, table.column(head));
      if (cell.empty()) continue;
      products.push_back(
          read_cell(table, row, head, [&] { return parse_product(cell, order, convention); }));
      break;
    }
  }
  return products;
}

TwoToneAnalysis analyse_capture(const LadderOptions& o, const fs::path& path,
                                const std::optional<Chain>& chain) {
  TwoToneAnalysis a;
  if (lower_case(path.extension().string()) == ".csv") {
    TraceSettings settings;
    a = analyse_trace(parse_trace(read_text(path, kLargestCsvMb), path.filename().string()),
                      settings);
  } else {
    TwoToneSettings settings;
    settings.full_scale_dbm = o.full_scale_dbm;
    if (chain && !settings.full_scale_dbm && recorder_of(*chain) != nullptr)
      settings.full_scale_dbm = recorder_of(*chain)->full_scale_dbm;
    a = analyse_two_tone(capture_opener(path), settings,
                         terminal_progress(path.filename().string()));
  }
  const RecorderLinearity linearity =
      recorder_linearity(o.linearity_u_db, chain ? &*chain : nullptr);
  if (!chain) {
    set_linearity(a, linearity, false);
    return a;
  }
  const auto center = a.capture.center_hz ? a.capture.center_hz : o.center_hz;
  if (!center && depends_on_frequency(*chain))
    throw InputError(path.filename().string(), "",
                     "it does not say which radio frequency is at 0 Hz", "Give it with --center");
  a = refer_to_device(a, *chain, center.value_or(0.0));
  set_linearity(a, linearity, true);
  return a;
}

Ladder read_ladder(const LadderOptions& o, const std::string& file,
                   const std::optional<Chain>& chain) {
  const fs::path path(file);
  const CsvTable table = parse_csv(read_text(path, kLargestCsvMb), path.filename().string());
  if (table.heads.empty())
    throw InputError(table.name, "line 1", "it has no heads",
                     "Begin it with setting,pout_dbm,capture or setting,pout_dbm,im3_dbc,im5_dbc");
  const auto setting = table.column("setting");
  Ladder ladder;
  for (const CsvTable::Row& row : table.rows) {
    std::string name = CsvTable::cell(row, setting);
    if (name.empty()) name = fmt::format("line {}", row.line);
    auto output = output_of(table, row);
    std::optional<TwoToneAnalysis> analysis;
    const std::vector<TypedProduct> products = products_of(table, row);
    const std::string capture = CsvTable::cell(row, table.column("capture"));
    if (!capture.empty())
      analysis = analyse_capture(o, path.parent_path() / capture, chain);
    else if (!products.empty())
      analysis = analysis_from_readings(products, o.reading_u_db);
    if (!output && analysis && analysis->full_scale_dbm && analysis->tones.size() == 2) {
      output =
          Figure{"output", "Output",   analysis->pep_dbfs + *analysis->full_scale_dbm, "dBm", "PEP",
                 {},       Bound::none};
      output->contributions = {{kAssumedLevel, kAssumedU, Scope::common}};
      if (chain)
        output->contributions = level_contributions(
            *chain, analysis->capture.center_hz.value_or(o.center_hz.value_or(0.0)));
    }
    ladder.typed.push_back({name, output ? std::optional(output->value) : std::nullopt, products});
    ladder.settings.push_back(std::move(name));
    ladder.outputs.push_back(std::move(output));
    ladder.analyses.push_back(std::move(analysis));
  }
  const bool has_any = std::any_of(ladder.analyses.begin(), ladder.analyses.end(),
                                   [](const auto& a) { return a.has_value(); });
  if (!has_any)
    throw InputError(table.name, "", "no row has a capture or products",
                     "Give a column capture, or columns such as im3_dbc");
  return ladder;
}

json number_or_null(const std::optional<double>& value) {
  return value ? finite_or_null(*value) : json(nullptr);
}

json step_json(const Ladder& ladder, const TwoToneLadder& result, std::size_t i) {
  const auto& output = ladder.outputs[i];
  json out = {{"setting", ladder.settings[i]},
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
  const Ladder ladder = read_ladder(o, o.file, chain);
  const std::string convention = o.limit_relative == "pep" ? kRePep : kReOneTone;
  const Limit limit{"command line", Sense::at_most, o.limit_db, "dB", convention, 20.0};
  const TwoToneLadder result = evaluate_ladder(ladder.evidence(), limit);
  const auto traces = ladder_traces(ladder.evidence(), convention);
  DrivenAmplifier driven;
  std::string amplifier;
  if (!o.amplifier_file.empty()) {
    const Ladder alone = read_ladder(o, o.amplifier_file, std::nullopt);
    std::optional<Ladder> pair;
    if (!o.pair_file.empty()) pair = read_ladder(o, o.pair_file, std::nullopt);
    amplifier = fs::path(o.amplifier_file).stem().string();
    driven = predict_driven(ladder.evidence(), alone.driven(),
                            pair ? pair->driven() : std::vector<AmplifierStep>{}, convention,
                            limit.value);
  }
  std::optional<double> ceiling;
  if (!o.ceiling.empty()) {
    QuantityOptions watts;
    watts.default_unit = "W";
    ceiling = parse_quantity(o.ceiling, Quantity::level, watts).value;
  }
  const LadderAdvice advice = advise_ladder(traces, limit, ceiling, driven, amplifier);
  std::vector<Remark> remarks = result.remarks;
  remarks.insert(remarks.end(), advice.remarks.begin(), advice.remarks.end());
  for (const ReadingDoubt& d : doubt_readings(ladder.typed))
    remarks.push_back({"doubt", Severity::caution, ladder.settings[d.step] + ": " + d.text, ""});
  sort_remarks(remarks);
  const bool passed = result.sweet_spot.has_value();
  if (!o.json) {
    fmt::print("{:<16}{:>10}{:>12}{:>8}{:>14}  {}\n", "setting", "W PEP", "worst, dB", "order",
               "\u00b1 dB", "verdict");
    for (std::size_t i = 0; i < ladder.settings.size(); ++i) {
      const LadderRow& row = result.rows[i];
      fmt::print("{:<16}{:>10}{:>13}{:>8}{:>13}  {}{}\n", ladder.settings[i],
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
  for (std::size_t i = 0; i < ladder.settings.size(); ++i)
    out["steps"].push_back(step_json(ladder, result, i));
  const auto named = [&](const std::optional<std::size_t>& step) {
    return step ? step_json(ladder, result, *step) : json(nullptr);
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
  if (!amplifier.empty()) out["driven"] = driven_json(driven);
  if (result.oip3) out["figures"].push_back(to_json(*result.oip3));
  for (std::size_t i = 0; i < result.rows.size(); ++i) {
    if (result.rows[i].worst)
      out["verdicts"].push_back(verdict_json(result.rows[i].judgement, limit, ladder.settings[i]));
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
