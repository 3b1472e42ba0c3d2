#include "core/method/frequency/accuracy_method.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <sstream>

#include "core/error.h"
#include "core/method/frequency/accuracy.h"
#include "core/method/live_quantity.h"
#include "core/method/measure/whole_answer.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kSettings = "frequency";
constexpr const char* kExpected = "frequency";
constexpr const char* kDial = "dial";
constexpr const char* kBands = "bands_hz";

const json& frequency_settings(const json& settings) {
  static const json kNothing = json::object();
  const auto found = settings.find(kSettings);
  return found != settings.end() && found->is_object() ? *found : kNothing;
}

AccuracyWay way_of(const json& settings) {
  const std::string id = frequency_settings(settings).value("way", "counter");
  return id == "beat_note"   ? AccuracyWay::beat_note
         : id == "zero_beat" ? AccuracyWay::zero_beat
         : id == "generator" ? AccuracyWay::generator
                             : AccuracyWay::counter;
}

/// "3.6 MHz, 14.2 MHz", or a line each.
json parse_bands_hz(const std::string& text) {
  json all = json::array();
  std::string one;
  std::istringstream lines(text);
  QuantityOptions options;
  options.default_unit = "MHz";
  while (std::getline(lines, one)) {
    std::istringstream parts(one);
    for (std::string part; std::getline(parts, part, ';');) {
      const std::string typed = normalised_typing(part);
      if (!typed.empty()) all.push_back(parse_quantity(typed, Quantity::frequency, options).value);
    }
  }
  return all;
}

std::vector<double> bands_of(const json& settings) {
  std::vector<double> all;
  const auto found = frequency_settings(settings).find(kBands);
  if (found == frequency_settings(settings).end() || !found->is_array()) return all;
  for (const json& hz : *found)
    if (hz.is_number()) all.push_back(hz.get<double>());
  return all;
}

AccuracyPlan plan_of(const Evidence& evidence) {
  AccuracyPlan plan;
  const json& from = frequency_settings(evidence.settings);
  try {
    plan.way = way_of(evidence.settings);
    plan.counter.gate_s = number_from(from, "gate_s").value_or(1.0);
    plan.counter.timebase_ppm = number_from(from, "timebase_ppm");
    plan.counter.ageing_ppm_per_year = number_from(from, "ageing_ppm").value_or(0.0);
    plan.counter.years = number_from(from, "months").value_or(0.0) / 12.0;
    plan.carrier_ppm = number_from(from, "source_ppm");
    plan.path_ppm = number_from(from, "path_ppm").value_or(0.0);
    plan.dial_step_hz = number_from(from, "dial_step_hz").value_or(10.0);
    plan.least_beat_hz = number_from(from, "least_beat_hz").value_or(20.0);
    plan.is_shared = from.value("shared", false);
    plan.bands_hz = bands_of(evidence.settings);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "ppm") {
    plan.limit = evidence.limit;
    plan.limit->convention.clear();
    plan.limit->sense = Sense::within;
  }
  return plan;
}

bool says_lower(const std::string& label) {
  return lower_case(label).find("lsb") != std::string::npos;
}

std::vector<AccuracyReading> readings_of(const Evidence& evidence, const AccuracyPlan& plan) {
  const bool is_lower = frequency_settings(evidence.settings).value("sideband", "usb") == "lsb";
  std::vector<AccuracyReading> all;
  for (const EvidenceStep& s : evidence.steps) {
    AccuracyReading r;
    r.label = s.label;
    if (const Condition* c = find_condition(s.conditions, kExpected)) r.expected_hz = c->value;
    if (const Condition* c = find_condition(s.conditions, kDial)) r.dial_hz = c->value;
    const char* quantity = plan.way == AccuracyWay::counter ? kCountedFrequency : "tone";
    if (const Reading* read = find_reading(s.readings, quantity)) r.read_hz = read->value;
    const bool has_usb = lower_case(s.label).find("usb") != std::string::npos;
    r.is_upper = has_usb || (!says_lower(s.label) && !is_lower);
    all.push_back(std::move(r));
  }
  return all;
}

std::string hz_cell(double hz) {
  return number_text(hz, std::abs(hz) < 100.0 ? 2 : 1, true);
}

ResultTable reading_table(const Accuracy& a, const AccuracyPlan& plan, const Evidence& evidence) {
  ResultTable t;
  t.title = "Readings";
  t.tab = "errors";
  t.margin_span = 0.5;
  t.margin_unit = "ppm";
  if (plan.limit) t.margin_span = plan.limit->span;
  t.columns = {
      {"reading", "Reading", CellKind::name, 190},
      {"expected", plan.way == AccuracyWay::counter ? "Nominal" : "Carrier", CellKind::figure, 110},
      {"hz", "Error, Hz", CellKind::figure, 96},
      {"ppm", "Error, ppm", CellKind::figure, 120},
      {"margin", "Margin", CellKind::margin, -1},
      {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
  for (std::size_t i = 0; i < a.rows.size(); ++i) {
    const AccuracyRow& r = a.rows[i];
    TableCell error;
    if (r.error) error = {figure_cell(*r.error, 2, true), std::nullopt, false, r.error};
    ResultTable::Row row{i, {}};
    row.cells = {
        {r.label},
        {r.expected_hz ? frequency_text(*r.expected_hz) : std::string()},
        {r.error_hz ? hz_cell(*r.error_hz) : std::string()},
        error,
        {r.judgement ? number_text(r.judgement->margin, 2, true) : std::string(), r.judgement},
        verdict_cell(r.judgement, r.error.has_value(), evidence.steps[i].is_damaged)};
    t.rows.push_back(std::move(row));
  }
  t.note = "Error: actual less nominal. Negative: the oscillator is low, and the dial reads high.";
  return t;
}

ResultTable band_table(const Accuracy& a, const AccuracyPlan& plan) {
  ResultTable t;
  t.title = "Error on each band";
  t.tab = "bands";
  // On one scale: the widest band's.
  if (plan.limit && !plan.bands_hz.empty())
    t.margin_span =
        plan.limit->span * *std::max_element(plan.bands_hz.begin(), plan.bands_hz.end()) / 1e6;
  t.margin_unit = "Hz";
  t.columns = {{"band", "Band", CellKind::name, 190},
               {"hz", "Error, Hz", CellKind::figure, 140},
               {"margin", "Margin", CellKind::margin, -1},
               {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
  for (const AccuracyBand& b : a.bands) {
    ResultTable::Row row{std::nullopt, {}};
    row.cells = {
        {frequency_text(b.frequency_hz)},
        {figure_cell(b.error, 1, true), std::nullopt, false, b.error},
        {b.judgement ? number_text(b.judgement->margin, 1, true) : std::string(), b.judgement},
        verdict_cell(b.judgement, true, false)};
    t.rows.push_back(std::move(row));
  }
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
    main.layers.push_back(std::move(band));
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

Answer answer_of(const Accuracy& a, const AccuracyPlan& plan) {
  Answer answer;
  answer.figure = *a.error;
  answer.head = plan.is_shared ? "Held together" : "Frequency error";
  answer.where = "all readings";
  answer.label = error_words(*a.error);
  answer.margin_span = plan.limit ? plan.limit->span : 0.5;
  if (plan.limit) answer.limit = plan.limit;
  answer.judgement = a.judgement;
  if (plan.is_shared)
    answer.sentence = "Held, not accurate: both hang on one source.";
  else if (!a.is_known)
    answer.sentence = "The source is not known: it is not judged.";
  else if (a.judgement)
    answer.sentence = verdict_sentence(*a.judgement, "ppm");
  else
    answer.sentence = "No limit is chosen, so nothing is judged.";
  return answer;
}

Result evaluate_accuracy(const Evidence& evidence) {
  const AccuracyPlan plan = plan_of(evidence);
  const Accuracy a = assess_accuracy(readings_of(evidence, plan), plan);
  Result r;
  r.method = "reference";
  r.remarks = a.remarks;
  if (evidence.limit && !plan.limit)
    r.remarks.push_back({"limit_unit", Severity::caution,
                         "The limit is in " + evidence.limit->unit + ": it judges no reference.",
                         "Choose a limit in ppm or ppb"});
  r.tables.push_back(reading_table(a, plan, evidence));
  if (!a.bands.empty()) r.tables.push_back(band_table(a, plan));
  r.plots.push_back(plot_of(a, plan));
  if (a.error) {
    const Answer answer = answer_of(a, plan);
    std::size_t first = 0;
    while (!a.rows[first].error) ++first;
    answer_all_steps(r, answer, first, a.rows.size());
    r.figures.push_back(*a.error);
    r.headline_id = a.error->id;
    const auto worst =
        std::max_element(a.bands.begin(), a.bands.end(), [](const auto& x, const auto& y) {
          return std::abs(x.error.value) < std::abs(y.error.value);
        });
    if (worst != a.bands.end()) {
      FigureCard card;
      card.head = "On " + frequency_text(worst->frequency_hz);
      card.value = figure_text(worst->error, Rounding::compact);
      card.caption = "the band where it is furthest off";
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

LimitField tolerance(const Evidence&) {
  LimitField f;
  f.head = "Within";
  f.hint = "How far the reference may be off, either way; as the maker says, or as your use needs.";
  f.label = "Limit";
  f.example = "0.5 ppm";
  f.asked = Quantity::relative;
  f.unit = "ppm";
  f.sense = Sense::within;
  f.span = 0.0;
  f.span_share = 1.0;
  return f;
}

json usual_settings() {
  return {{"way", "counter"},         {"sideband", "usb"},     {"gate_s", nullptr},
          {"timebase_ppm", nullptr},  {"ageing_ppm", nullptr}, {"months", nullptr},
          {"source_ppm", nullptr},    {"path_ppm", nullptr},   {"dial_step_hz", nullptr},
          {"least_beat_hz", nullptr}, {"shared", false},       {kBands, json::array()}};
}

std::string way_words(const Evidence& evidence) {
  switch (way_of(evidence.settings)) {
    case AccuracyWay::counter:
      return "counter";
    case AccuracyWay::beat_note:
      return "beat note";
    case AccuracyWay::zero_beat:
      return "zero beat";
    case AccuracyWay::generator:
      break;
  }
  return "generator";
}

std::string check_settings(const json& settings) {
  const auto gate = number_from(frequency_settings(settings), "gate_s");
  return gate && !(*gate > 0.0) ? "The gate must be longer than 0." : "";
}

std::vector<SettingField> setting_fields() {
  using Kind = SettingField::Kind;
  const auto number = [](std::string_view key, std::string_view group, std::string_view head,
                         std::string_view hint, Quantity asked, std::string_view unit,
                         std::string_view none, std::string_view example) {
    SettingField f;
    f.kind = Kind::quantity;
    f.key = key;
    f.group = group;
    f.head = head;
    f.hint = hint;
    f.asked = asked;
    f.unit = unit;
    f.none = none;
    f.example = example;
    return f;
  };
  constexpr const char* kCounter = "Counter";
  constexpr const char* kSource = "Carrier and dial";
  return {
      {.key = "way",
       .head = "Read by",
       .hint = "How it is known how far off the reference is",
       .choices = {{"counter", "counter"},
                   {"beat_note", "beat note of a known carrier"},
                   {"zero_beat", "zero beat with a known carrier"},
                   {"generator", "generator into the receiver"}}},
      {.kind = Kind::text,
       .key = kBands,
       .head = "Bands",
       .hint = "Frequencies at which the error is told in Hz, a line each",
       .text = {.parse = parse_bands_hz,
                .written =
                    [](const json& kept) {
                      std::string text;
                      for (const json& hz : kept) text += frequency_text(hz.get<double>()) + "\n";
                      return text;
                    },
                .understood =
                    [](const json& kept) {
                      return std::to_string(kept.size()) + (kept.size() == 1 ? " band" : " bands");
                    }}},
      number("gate_s", kCounter, "Gate", "Of the counter: its resolution is one count of it.",
             Quantity::duration, "s", "1 s, as usual", "10 s"),
      number("timebase_ppm", kCounter, "Timebase",
             "How far off the counter\u2019s timebase may be, as it was calibrated.",
             Quantity::relative, "ppm", "Not known", "0.1 ppm"),
      number("ageing_ppm", kCounter, "Ageing per year", "Of the timebase since it was calibrated.",
             Quantity::relative, "ppm", "None", "0.05 ppm"),
      number("months", kCounter, "Calibrated since", "How long ago.", Quantity::interval, "months",
             "Just now", "18 months"),
      {.key = "sideband",
       .group = kSource,
       .head = "Sideband",
       .hint = "Of readings whose name does not say USB or LSB",
       .choices = {{"usb", "USB"}, {"lsb", "LSB"}}},
      number("source_ppm", kSource, "\u00b1 of the source",
             "How far off the station or the generator may be.", Quantity::relative, "ppm",
             "Not known", "0.01 ppm"),
      number("path_ppm", kSource, "Scatter of the path",
             "Standard uncertainty that propagation adds to one reading.", Quantity::relative,
             "ppm", "None", "0.05 ppm"),
      number("dial_step_hz", kSource, "Dial step", "Smallest step of the dial.",
             Quantity::frequency, "Hz", "10 Hz, as usual", "10 Hz"),
      number("least_beat_hz", kSource, "Slowest beat heard",
             "A slower one is not told from none while you look for zero beat.",
             Quantity::frequency, "Hz", "20 Hz, as usual", "5 Hz"),
      {.kind = Kind::flag,
       .key = "shared",
       .head = "Instrument and device hang on one source",
       .hint = "Both are disciplined by the same: then this shows that they hold, not accuracy"}};
}

std::string_view bare_unit_of(const TypedField& field, const json& settings) {
  const AccuracyWay way = way_of(settings);
  if (field.quantity == kCountedFrequency)
    return way == AccuracyWay::counter ? std::string_view("MHz") : std::string_view();
  if (field.quantity == kDial)
    return way == AccuracyWay::counter ? std::string_view() : std::string_view("MHz");
  if (field.quantity == "tone")
    return way == AccuracyWay::beat_note || way == AccuracyWay::generator ? std::string_view("Hz")
                                                                          : std::string_view();
  return field.typed_unit.empty() ? field.unit : field.typed_unit;
}

}  // namespace

const Method& accuracy_method() {
  using Kind = TypedField::Kind;
  static const Method method{
      .id = "reference",
      .step_head = "Reading",
      .step_example = "test point, cover on",
      .fields = {{.kind = Kind::condition,
                  .quantity = kExpected,
                  .head = "Nominal",
                  .hint = "What it should be: nominal of the oscillator, or the true frequency of "
                          "the carrier",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "MHz",
                  .width = 124,
                  .csv = "nominal_hz"},
                 {.kind = Kind::condition,
                  .quantity = kDial,
                  .head = "Dial",
                  .hint = "Where the dial stands",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "MHz",
                  .width = 124,
                  .csv = "dial_hz"},
                 {.quantity = kCountedFrequency,
                  .head = "Counted",
                  .hint = "What the counter shows, every digit of it",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "MHz",
                  .width = 150,
                  .live = kCountedFrequency,
                  .csv = "frequency_hz"},
                 {.quantity = "tone",
                  .head = "Tone",
                  .hint = "Tone heard, by ear against a known one, or from the spectrum of the "
                          "audio",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "Hz",
                  .width = 110,
                  .csv = "tone_hz"}},
      .settings_key = kSettings,
      .settings = setting_fields(),
      .usual_settings = usual_settings,
      .setting_words = way_words,
      .check = check_settings,
      .bare_unit = bare_unit_of,
      .limit = tolerance,
      .caution =
          "A test point may lie beside mains or high voltage: one hand, insulated probe. Local "
          "codes and licensed practice come first.",
      .step_hint = "USB or LSB in its name says the sideband",
      .evaluate = evaluate_accuracy};
  return method;
}

}  // namespace heron
