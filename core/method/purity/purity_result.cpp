#include "core/method/purity/purity_result.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <iterator>

#include "core/error.h"
#include "core/method/purity/purity_plot.h"
#include "core/method/purity/purity_settings.h"
#include "core/method/purity/purity_take.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kMarginSpanDb = 20.0;

/// Everything that was read, and why it cannot be assessed if so.
struct Assessed {
  PurityTestSettings settings;
  Mask mask;
  double carrier_hz = 0.0;
  std::vector<std::pair<std::size_t, PuritySource>> sources;  ///< with the step of each
  std::optional<PurityAnalysis> analysis;
  bool is_self_tested = false;
  std::string obstacle;
  std::string advice;
};

/// As it was kept, on the scale of the instrument that took it.
std::optional<PuritySource> source_of(const AnalysisPtr& analysis,
                                      const std::optional<Chain>& path) {
  const auto* take = dynamic_cast<const PurityTake*>(analysis.get());
  if (take == nullptr) return std::nullopt;
  PuritySource source = take->source;
  source.chain = path;
  const Part* recorder = path ? recorder_of(*path) : nullptr;
  if (recorder != nullptr && recorder->full_scale_dbm)
    source.set_full_scale(*recorder->full_scale_dbm);
  return source;
}

PuritySettings judged_with(const Assessed& a, const Evidence& evidence) {
  PuritySettings how;
  how.carrier_hz = a.carrier_hz;
  how.mask = a.mask;
  how.power_dbm = a.settings.power_dbm;
  how.is_same_gain = a.settings.is_same_gain;
  how.chain = evidence.hookup;
  if (evidence.drive) {
    // One tone through a single-sideband transmitter stands beside the dial.
    const double aside = std::abs(a.carrier_hz - evidence.drive->frequency_hz);
    if (aside >= kLeastToneHz && aside <= kMostToneHz)
      how.suppressed_carrier_hz = evidence.drive->frequency_hz;
  }
  return how;
}

Assessed assessed(const Evidence& evidence) {
  Assessed a;
  a.settings = purity_settings_from_json(evidence.settings);
  a.mask = purity_mask(evidence);
  a.carrier_hz = purity_carrier_hz(evidence.settings, evidence.drive);
  std::vector<PuritySource> all;
  std::vector<std::pair<PuritySource, double>> self_tests;
  for (std::size_t i = 0; i < evidence.steps.size(); ++i) {
    const EvidenceStep& step = evidence.steps[i];
    if (auto source = source_of(step.analysis, step.path)) {
      all.push_back(*source);
      a.sources.emplace_back(i, std::move(*source));
    }
    if (!step.second_take) continue;
    if (auto again = source_of(step.second_take->analysis, step.second_take->path))
      self_tests.emplace_back(std::move(*again), step.second_take->added_db);
  }
  a.is_self_tested = !self_tests.empty();
  if (all.empty() && a.settings.lines.empty()) return a;
  try {
    if (!a.settings.lines.empty())
      all.push_back(
          typed_purity_source(a.settings.lines, a.carrier_hz, all, a.settings.reading_u_db));
    a.analysis = assess_purity(all, judged_with(a, evidence));
  } catch (const InputError& error) {
    a.obstacle = error.what_happened();
    a.advice = error.advice;
    return a;
  }
  for (const auto& [source, added_db] : self_tests)
    compare_attenuation(*a.analysis, source, added_db);
  return a;
}

std::optional<Limit> limit_of(const PurityLine& line, const Mask& mask) {
  if (!line.judgement || !line.limit_dbc) return std::nullopt;
  return Limit{mask.name, Sense::at_most, *line.limit_dbc, "dB", kReCarrier, kMarginSpanDb};
}

/// "28.4 MHz, 2.2 mW at the device"
std::string place_words(const PurityLine& line, const PurityAnalysis& a) {
  const std::string at = engineering_text(line.frequency_hz, "Hz", 4);
  if (!a.carrier_dbm) return at;
  return at + ", " + engineering_text(to_watt(Dbm{*a.carrier_dbm + line.level_dbc}).value, "W", 2) +
         " at the device";
}

Answer answer_of(const PurityLine& line, const PurityAnalysis& a, std::size_t item) {
  Answer answer;
  answer.figure = line_figure(line);
  const std::string name = line_name(line);
  answer.where =
      line.kind == LineKind::harmonic ? name : engineering_text(line.frequency_hz, "Hz", 4);
  answer.head = std::string(1, static_cast<char>(std::toupper(name.front()))) + name.substr(1);
  answer.label = place_words(line, a);
  answer.limit = limit_of(line, a.mask);
  answer.judgement = line.judgement;
  answer.sentence = line.judgement     ? verdict_sentence(*line.judgement, "dB")
                    : a.mask.is_none() ? "No mask is chosen, so nothing is judged."
                    : !line.is_unwanted()
                        ? "It is none of what the mask limits."
                        : "The mask says nothing here, or depends on a power not known.";
  answer.margin_span = kMarginSpanDb;
  answer.step = item;
  return answer;
}

Answer carrier_answer(const PurityLine& carrier, const PurityAnalysis& a) {
  Answer answer;
  answer.figure =
      carrier_figure(a).value_or(Figure{"carrier", "Carrier", 0.0, "dB", kReCarrier, {}});
  answer.where = "carrier";
  answer.head = "Carrier";
  answer.label = engineering_text(carrier.frequency_hz, "Hz", 6);
  answer.sentence = "All lines are relative to it.";
  answer.step = 0;
  return answer;
}

/// The worst first, with the verdict of everything; the carrier last. None while there is only the
/// carrier.
std::vector<Answer> answers_of(const PurityAnalysis& a) {
  const PurityLine* worst = a.worst();
  if (worst == nullptr) return {};
  const auto first = static_cast<std::size_t>(worst - a.lines.data());
  Answer headline = answer_of(*worst, a, first);
  headline.head = "Worst line: " + line_name(*worst);
  headline.judgement = a.judgement();
  if (headline.judgement) headline.sentence = verdict_sentence(*headline.judgement, "dB");
  std::vector<Answer> all{std::move(headline)};
  for (std::size_t i = 0; i < a.lines.size(); ++i) {
    if (i != first && a.lines[i].kind != LineKind::carrier)
      all.push_back(answer_of(a.lines[i], a, i));
  }
  if (a.carrier() != nullptr) all.push_back(carrier_answer(*a.carrier(), a));
  return all;
}

ResultTable table_of(const std::optional<PurityAnalysis>& a) {
  ResultTable table;
  table.title = "Lines of this device";
  table.margin_span = kMarginSpanDb;
  table.columns = {{"line", "What it is", CellKind::name, 116, 0, 112},
                   {"frequency", "MHz", CellKind::figure, 68},
                   {"as_read", "As measured", CellKind::figure, 84},
                   {"correction", "Path corr.", CellKind::figure, 70},
                   {"level", "dBc", CellKind::figure, 102},
                   {"absolute", "dBm", CellKind::figure, 64, 1200},
                   {"limit", "Limit", CellKind::figure, 52},
                   {"margin", "Margin", CellKind::margin, -1},
                   {"verdict", "Verdict", CellKind::verdict, 100}};
  table.note =
      "As measured and dBc: relative to the carrier. Levels are those at the device, each line "
      "through the hook-up at its own frequency.";
  if (!a) return table;
  const PurityLine* carrier = a->carrier();
  const double read_0 = carrier != nullptr ? carrier->as_read_dbm : 0.0;
  const double correction_0 = carrier != nullptr ? carrier->correction_db : 0.0;
  for (std::size_t i = 0; i < a->lines.size(); ++i) {
    const PurityLine& l = a->lines[i];
    const bool is_carrier = l.kind == LineKind::carrier;
    const std::string bound = l.is_bound ? "\u2264 " : "";
    ResultTable::Row row{i, {}};
    row.cells = {
        {line_name(l)},
        {number_text(l.frequency_hz / 1e6, 3)},
        {bound + number_text(l.as_read_dbm - read_0, 1)},
        {number_text(l.correction_db - correction_0, 1, true)},
        {is_carrier ? number_text(0.0, 1) : figure_cell(line_figure(l), 1), std::nullopt, true},
        {a->is_absolute ? bound + number_text(l.level_dbm, 1, true) : ""},
        {l.limit_dbc ? number_text(*l.limit_dbc, 1) : ""},
        {l.judgement ? number_text(l.judgement->margin, 1, true) : "", l.judgement},
        {is_carrier    ? "reference"
         : l.judgement ? verdict_word(l.judgement->verdict)
                       : "not judged",
         l.judgement}};
    table.rows.push_back(std::move(row));
  }
  return table;
}

std::vector<Remark> remarks_of(const Assessed& a) {
  std::vector<Remark> all;
  if (a.analysis) all = a.analysis->remarks;
  if (!a.obstacle.empty())
    all.push_back({"obstacle", Severity::caution,
                   "What was measured cannot be combined yet: " + a.obstacle + ".", a.advice});
  const PurityLine* worst = a.analysis ? a.analysis->worst() : nullptr;
  if (worst != nullptr && !a.is_self_tested && worst->judgement &&
      worst->judgement->verdict != Verdict::pass)
    all.push_back({"self_test_wanted", Severity::note,
                   "Nothing says yet whether " + line_name(*worst) +
                       " is the device\u2019s or the instrument\u2019s.",
                   "Measure it again with 10 dB more attenuation"});
  sort_remarks(all);
  return all;
}

void add_figures(Result& r, const PurityAnalysis& a) {
  for (const PurityLine& l : a.lines) {
    if (l.kind == LineKind::carrier) {
      if (r.output) r.step_figures.push_back({"carrier", *r.output});
      continue;
    }
    r.step_figures.push_back({line_name(l), line_figure(l), limit_of(l, a.mask), l.judgement});
  }
}

void add_items(Result& r, const Assessed& a) {
  for (const PurityLine& l : a.analysis->lines) {
    // Recordings of several places are often called the same.
    const auto shows = [&](const std::pair<std::size_t, PuritySource>& from) {
      const auto& readings = from.second.readings;
      return from.second.name == l.source &&
             std::any_of(readings.begin(), readings.end(), [&](const PurityReading& read) {
               return read.frequency_hz == l.frequency_hz;
             });
    };
    const auto from = std::find_if(a.sources.begin(), a.sources.end(), shows);
    r.items.push_back(
        {line_name(l), from == a.sources.end() ? std::nullopt : std::optional(from->first)});
  }
}

std::string empty_words(const Assessed& a) {
  if (!a.obstacle.empty()) return a.obstacle + ". " + a.advice + ".";
  return "Nothing measured yet. Drop recordings of the carrier and of each harmonic here, or an "
         "analyser\u2019s CSV trace; or type the lines.";
}

}  // namespace

Result evaluate_purity(const Evidence& evidence) {
  const Assessed a = assessed(evidence);
  Result r;
  if (a.analysis) {
    r = to_result(*a.analysis);
    r.curves.clear();  // as long as the recordings, and drawn nowhere
    r.answers = answers_of(*a.analysis);
    add_items(r, a);
    r.output = carrier_figure(*a.analysis);
    r.is_output_typed = a.settings.power_dbm.has_value();
    add_figures(r, *a.analysis);
    if (auto card = filter_card(*a.analysis)) r.cards.push_back(std::move(*card));
  }
  r.method = "purity";
  r.carrier_hz = a.carrier_hz;
  r.remarks = remarks_of(a);
  r.tables = {table_of(a.analysis)};
  r.plots = {purity_plot(a.analysis, a.mask, a.carrier_hz, empty_words(a))};
  r.conditions = {{"Carrier", frequency_text(a.carrier_hz)}};
  if (a.settings.power_dbm) r.conditions.emplace_back("Its power", a.settings.power_typed);
  r.conditions.emplace_back("Mask",
                            a.mask.is_none() ? "none chosen" : a.mask.name + "; " + kOwnLicence);
  return r;
}

}  // namespace heron
