#include "core/method/frequency/accuracy_result.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/accuracy_settings.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/measure/whole_answer.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

std::string hz_cell(double hz) {
  return number_text(hz, std::abs(hz) < 100.0 ? 2 : 1, true);
}

/// "reference -4.6 Hz, carrier -0.8 Hz": what each oscillator makes there.
TableCell parts_cell(const Accuracy& a, const AccuracyBand& b, const OscillatorMap& map) {
  TableCell cell;
  AxisCell axis{b.error.value, b.error.expanded()};
  for (std::size_t i = 0; i < a.oscillators.errors.size(); ++i) {
    const double hz = a.oscillators.errors[i].value * b.mapped->factor_mhz[i];
    axis.parts.push_back(hz);
    if (b.mapped->factor_mhz[i] == 0.0) continue;
    cell.text += fmt::format("{}{} {} Hz", cell.text.empty() ? "" : ", ", map.oscillators[i],
                             number_text(hz, 1, true));
  }
  cell.axis = std::move(axis);
  return cell;
}

/// What rows that share a scale need of it: the limit is seen, and what lies beyond it, too.
TableAxis axis_over(std::optional<double> tolerance, double furthest) {
  constexpr double kRoomOver = 1.24;
  return {kRoomOver * std::max(tolerance.value_or(0.0), furthest > 0.0 ? furthest : 1e-9),
          tolerance, std::nullopt};
}

ResultTable reading_table(const Accuracy& a, const AccuracyPlan& plan, const Evidence& evidence) {
  ResultTable t;
  t.title = "Readings";
  t.tab = "errors";
  double furthest = 0.0;
  for (const AccuracyRow& r : a.rows)
    if (r.error) furthest = std::max(furthest, std::abs(r.error->value));
  TableAxis axis =
      axis_over(plan.limit ? std::optional(plan.limit->value) : std::nullopt, furthest);
  // With several oscillators bands differ by right.
  const bool is_one = a.error && a.oscillators.errors.empty();
  if (is_one)
    axis.together =
        std::pair(a.error->value - a.error->expanded(), a.error->value + a.error->expanded());
  t.columns = {
      {"reading", "Reading", CellKind::name, 158},
      {"expected", plan.way == AccuracyWay::counter ? "Nominal" : "Carrier", CellKind::figure, 84},
      {"hz", "Error, Hz", CellKind::figure, 76},
      {"where", "In words", CellKind::axis, -1, 0, 0, false, axis},
      {"ppm", "Error, ppm", CellKind::figure, 108},
      {"off", "Off the others", CellKind::figure, 116, 1440},
      {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
  for (std::size_t i = 0; i < a.rows.size(); ++i) {
    const AccuracyRow& r = a.rows[i];
    TableCell error;
    TableCell where;
    if (r.error) {
      error = {figure_cell(*r.error, 2, true), std::nullopt, false, r.error};
      where.text = error_words(*r.error);
      where.axis = AxisCell{r.error->value, r.error->expanded()};
    }
    ResultTable::Row row{i, {}};
    row.cells = {
        {r.label},
        {r.expected_hz ? frequency_text(*r.expected_hz) : std::string()},
        {r.error_hz ? hz_cell(*r.error_hz) : std::string()},
        where,
        error,
        r.off ? TableCell{figure_cell(*r.off, 2, true), std::nullopt, false, r.off} : TableCell{},
        verdict_cell(r.judgement, r.error.has_value(), evidence.steps[i].is_damaged)};
    t.rows.push_back(std::move(row));
  }
  if (is_one && std::count_if(a.rows.begin(), a.rows.end(),
                              [](const AccuracyRow& r) { return r.error.has_value(); }) > 1) {
    ResultTable::Row row{std::nullopt, {}};
    TableCell where{error_words(*a.error)};
    where.axis = AxisCell{a.error->value, a.error->expanded(), true};
    row.cells = {{"All together"},
                 {},
                 {},
                 where,
                 {figure_cell(*a.error, 2, true), std::nullopt, true, a.error},
                 {},
                 verdict_cell(a.judgement, true, false)};
    t.rows.push_back(std::move(row));
  }
  t.note =
      "Error: actual less nominal. Negative: the oscillator is low, and the dial reads high. Off "
      "the "
      "others: in ppm, from what all other readings say together.";
  return t;
}

ResultTable band_table(const Accuracy& a, const AccuracyPlan& plan) {
  ResultTable t;
  t.title = "Error on each band";
  t.tab = "bands";
  // On one scale: the widest band's.
  double widest = 0.0;
  double furthest = 0.0;
  for (const AccuracyBand& b : a.bands) {
    widest = std::max(widest, b.frequency_hz);
    furthest = std::max(furthest, std::abs(b.error.value) + b.error.expanded());
  }
  if (plan.limit && widest > 0.0) t.margin_span = plan.limit->span * widest / 1e6;
  t.margin_unit = "Hz";
  const bool is_mapped = !a.bands.empty() && a.bands.front().mapped != nullptr;
  const bool is_parted = is_mapped && !a.oscillators.errors.empty();
  constexpr std::size_t kMostFactors = 4;
  constexpr std::size_t kFewFactors = 2;
  t.columns = {{"band", "Band", CellKind::name, is_mapped ? 140 : 190}};
  const std::size_t factors =
      is_mapped ? std::min(kMostFactors, plan.map.oscillators.size()) : std::size_t{0};
  for (std::size_t i = 0; i < factors; ++i)
    t.columns.push_back({"factor" + std::to_string(i), plan.map.oscillators[i] + ", Hz/ppm",
                         CellKind::figure, 132, factors > kFewFactors ? 1440 : 1200});
  // What each oscillator does there, and their sum.
  if (is_parted)
    t.columns.push_back(
        {"parts", "Parts", CellKind::axis, -1, 0, 0, false, axis_over(std::nullopt, furthest)});
  t.columns.push_back({"hz", "Error, Hz", CellKind::figure, 120});
  t.columns.push_back(
      {"margin", "Margin", CellKind::margin, is_parted ? 130 : -1, is_parted ? 1440 : 0});
  t.columns.push_back({"verdict", "Verdict", CellKind::verdict, 112, 0, 111});
  for (const AccuracyBand& b : a.bands) {
    ResultTable::Row row{std::nullopt, {}};
    std::string name = is_mapped ? fmt::format("{:.10g} MHz", b.frequency_hz / 1e6)
                                 : frequency_text(b.frequency_hz);
    if (b.mapped != nullptr && !b.mapped->sideband.empty()) name += " " + b.mapped->sideband;
    row.cells = {{name}};
    for (std::size_t i = 0; i < factors; ++i) {
      const double mhz = b.mapped->factor_mhz[i];
      row.cells.push_back({mhz != 0.0 ? number_text(mhz, 3, true) : std::string()});
    }
    if (is_parted) row.cells.push_back(parts_cell(a, b, plan.map));
    row.cells.push_back({figure_cell(b.error, 1, true), std::nullopt, false, b.error});
    row.cells.push_back(
        {b.judgement ? number_text(b.judgement->margin, 1, true) : std::string(), b.judgement});
    row.cells.push_back(verdict_cell(b.judgement, true, false));
    t.rows.push_back(std::move(row));
  }
  if (is_parted)
    t.note =
        "Bars: what each oscillator does on the band, one after the other in the order of the map; "
        "upright line: their sum.";
  return t;
}

/// Which of them is off, and which way.
ResultTable oscillator_table(const Accuracy& a) {
  ResultTable t;
  t.title = "Oscillators";
  t.tab = "oscillators";
  t.columns = {{"name", "Oscillator", CellKind::name, 190},
               {"ppm", "Error, ppm", CellKind::figure, 140},
               {"words", "", CellKind::text, -1}};
  for (const Figure& f : a.oscillators.errors) {
    const bool is_off = std::abs(f.value) > f.expanded();
    t.rows.push_back({std::nullopt,
                      {{f.label},
                       {figure_cell(f, 2, true), std::nullopt, false, f},
                       {!is_off         ? "no error found"
                        : f.value < 0.0 ? "this one is off: it is low"
                                        : "this one is off: it is high"}}});
  }
  t.note = "By least squares from all readings on mapped bands.";
  return t;
}

Plot plot_of(const Accuracy& a, const AccuracyPlan& plan) {
  Plot plot;
  plot.title = "Error over frequency";
  plot.x = {"Frequency", "Hz", true};
  PlotPanel main{{"Error, ppm", ""}, {}};
  PlotLayer read{PlotLayer::Kind::trace, "readings", 1, false, {}};
  double low = 1e300;
  double high = 0.0;
  double most = plan.limit ? 1.3 * plan.limit->value : 0.1;
  for (std::size_t i = 0; i < a.rows.size(); ++i) {
    const AccuracyRow& r = a.rows[i];
    if (!r.error) continue;
    read.points.push_back({*r.expected_hz, r.error->value, r.error->expanded(), Bound::none, i});
    low = std::min(low, *r.expected_hz);
    high = std::max(high, *r.expected_hz);
    most = std::max(most, 1.15 * (std::abs(r.error->value) + r.error->expanded()));
  }
  for (const double hz : plan.bands_hz) {
    low = std::min(low, hz);
    high = std::max(high, hz);
  }
  if (a.error && low <= high) {
    low /= 1.5;
    high *= 1.5;
    PlotLayer band{PlotLayer::Kind::band, "together", 1, true, {}};
    for (const double x : {low, high}) {
      PlotPoint p;
      p.x = x;
      p.y = a.error->value + a.error->expanded();
      p.before = a.error->value - a.error->expanded();
      band.points.push_back(p);
    }
    // With several oscillators bands differ by right.
    if (a.oscillators.errors.empty()) main.layers.push_back(std::move(band));
    if (plan.limit) {
      for (const double side : {1.0, -1.0}) {
        PlotLayer limit{
            PlotLayer::Kind::limit, side > 0.0 ? limit_text(*plan.limit) : "", 1, true, {}};
        limit.ends_at_points = true;
        limit.points = {{low, side * plan.limit->value}, {high, side * plan.limit->value}};
        main.layers.push_back(std::move(limit));
      }
    }
    plot.x.range = std::pair(low, high);
    main.y.range = std::pair(-most, most);
  }
  main.layers.push_back(std::move(read));
  plot.panels.push_back(std::move(main));
  PlotPanel bands{{"On the bands, Hz", ""}, {}};
  PlotLayer at{PlotLayer::Kind::trace, "bands", 3, false, {}};
  for (const AccuracyBand& b : a.bands)
    at.points.push_back(
        {b.frequency_hz, b.error.value, b.error.expanded(), Bound::none, std::nullopt});
  if (!at.points.empty()) {
    bands.layers = {at};
    plot.panels.push_back(std::move(bands));
  }
  plot.empty_words =
      "Nothing read yet. Count the oscillator at its test point, or tune to a carrier that is "
      "known, and type what you read into the grid below.";
  return plot;
}

/// Nearest to its limit, or furthest beyond, for its frequency.
bool by_margin(const AccuracyBand& x, const AccuracyBand& y) {
  const auto share = [](const AccuracyBand& b) {
    return b.judgement ? b.judgement->margin / b.frequency_hz : 0.0;
  };
  return share(x) < share(y);
}

Answer answer_of(const Accuracy& a, const AccuracyPlan& plan) {
  Answer answer;
  answer.figure = *a.error;
  answer.head = plan.is_shared ? "Held together" : "Frequency error";
  if (!a.oscillators.errors.empty()) answer.head = "Error, " + a.error->label;
  answer.where = "all readings";
  answer.label = error_words(*a.error);
  answer.margin_span = plan.limit ? plan.limit->span : 0.5;
  if (plan.limit) answer.limit = plan.limit;
  answer.judgement = a.judgement;
  if (plan.is_shared)
    answer.sentence = "Held, not accurate: both share one source.";
  else if (!a.is_known)
    answer.sentence = "The source is not known: it is not judged.";
  else if (a.judgement)
    answer.sentence = verdict_sentence(*a.judgement, "ppm");
  else
    answer.sentence = "No limit is chosen, so nothing is judged.";
  // Other oscillators may fail a band although this one is near enough.
  const auto bad = std::min_element(a.bands.begin(), a.bands.end(), by_margin);
  if (!a.oscillators.errors.empty() && answer.judgement && bad != a.bands.end() && bad->judgement &&
      is_worse(*bad->judgement, *answer.judgement)) {
    answer.figure = relative_error(bad->error, bad->frequency_hz);
    answer.figure.id = a.error->id;
    answer.head = "Error on " + frequency_text(bad->frequency_hz);
    answer.label = answer.figure.value > 0.0 ? "the dial reads low" : "the dial reads high";
    answer.judgement = judge(answer.figure, *plan.limit);
    answer.sentence = verdict_sentence(*answer.judgement, "ppm");
  }
  return answer;
}

/// The one that the map names first; the answer may be of a band.
void add_oscillator_card(Result& r, const Accuracy& a) {
  FigureCard card;
  card.head = "Error, " + a.oscillators.errors.front().label;
  card.value = figure_text(*a.error, Rounding::compact);
  card.caption = error_words(*a.error);
  card.judgement = a.judgement;
  r.figure_cards.push_back(std::move(card));
}

}  // namespace

Result evaluate_accuracy(const Evidence& evidence) {
  const AccuracyPlan plan = accuracy_plan(evidence);
  const Accuracy a = assess_accuracy(accuracy_readings(evidence, plan), plan);
  Result r;
  r.method = "reference";
  r.remarks = a.remarks;
  if (const auto other = other_limit_remark(evidence, "reference")) r.remarks.push_back(*other);
  r.tables.push_back(reading_table(a, plan, evidence));
  if (!a.bands.empty()) r.tables.push_back(band_table(a, plan));
  if (!a.oscillators.errors.empty()) r.tables.push_back(oscillator_table(a));
  r.plots.push_back(plot_of(a, plan));
  if (a.error) {
    const Answer answer = answer_of(a, plan);
    std::size_t first = 0;
    while (!a.rows[first].error) ++first;
    answer_all_steps(r, answer, first, a.rows.size());
    r.figures.push_back(answer.figure);
    r.headline_id = a.error->id;
    if (!a.oscillators.errors.empty()) add_oscillator_card(r, a);
    const bool is_mapped = !a.oscillators.errors.empty() && answer.judgement;
    const auto worst =
        is_mapped
            ? std::min_element(a.bands.begin(), a.bands.end(), by_margin)
            : std::max_element(a.bands.begin(), a.bands.end(), [](const auto& x, const auto& y) {
                return std::abs(x.error.value) < std::abs(y.error.value);
              });
    if (worst != a.bands.end()) {
      FigureCard card;
      card.head = "On " + frequency_text(worst->frequency_hz);
      card.value = figure_text(worst->error, Rounding::compact);
      card.caption =
          is_mapped ? "the band where it matters most" : "the band where it is furthest off";
      card.judgement = worst->judgement;
      card.margin_span = answer.margin_span * worst->frequency_hz / 1e6;
      r.figure_cards.push_back(std::move(card));
    }
  }
  for (const AccuracyRow& row : a.rows)
    if (row.error) r.step_figures.push_back({row.label, *row.error, plan.limit, row.judgement});
  for (const AccuracyBand& b : a.bands) {
    StepFigure s{frequency_text(b.frequency_hz), b.error, std::nullopt, b.judgement};
    r.step_figures.push_back(std::move(s));
  }
  return r;
}

}  // namespace heron
