#include "core/method/output/output_method.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/live_quantity.h"
#include "core/method/output/output_power.h"
#include "core/method/usual_meter.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr const char* kFrequency = "frequency";
constexpr const char* kKeyDown = "key_down";
constexpr const char* kOutput = "output";
constexpr const char* kVolts = kSupplyVoltage;
constexpr const char* kAmperes = kSupplyCurrent;
constexpr const char* kForward = "indicated_forward";
constexpr const char* kReflected = "indicated_reflected";
constexpr const char* kSpecified = "specified_output";
constexpr double kUsualKeyDownS = 60.0;

std::string cell_text(const std::optional<Figure>& f, int decimals) {
  // Of a difference the sign is what matters.
  return f ? figure_cell(*f, decimals, f->unit == "dB") : std::string();
}

std::string watt_cell(const std::optional<Figure>& level) {
  return level ? figure_cell(in_watts(*level), 1) : std::string();
}

OutputReading reading_at(const EvidenceStep& step, ReadingRole role, double time_s) {
  OutputReading r;
  r.time_s = time_s;
  const auto figure = [&](const char* quantity, const char* label) -> std::optional<Figure> {
    const Reading* found = find_reading(step.readings, quantity, role);
    return found != nullptr ? std::optional(to_figure(*found, label)) : std::nullopt;
  };
  const auto value = [&](const char* quantity) -> std::optional<double> {
    const Reading* found = find_reading(step.readings, quantity, role);
    return found != nullptr ? std::optional(found->value) : std::nullopt;
  };
  r.output = figure(kOutput, role == ReadingRole::at ? "Output, cold" : "Output, hot");
  if (r.output) r.output->contributions = meter_contributions(r.output->u());
  r.volts = figure(kVolts, "Supply");
  r.amperes = figure(kAmperes, "Supply current");
  r.forward_w = value(kForward);
  r.reflected_w = value(kReflected);
  return r;
}

double key_down_s(const EvidenceStep& step) {
  const Condition* typed = find_condition(step.conditions, kKeyDown);
  return typed != nullptr ? typed->value : kUsualKeyDownS;
}

ResultTable table_of(const OutputPower& all, const Evidence& evidence) {
  ResultTable table;
  table.title = "Output per band and setting";
  table.margin_span = kPowerMarginSpanDb;
  table.columns = {{"step", "Band and setting", CellKind::name, 136},
                   {"cold", "Cold, W", CellKind::figure, 88},
                   {"hot", "Hot, W", CellKind::figure, 88},
                   {"droop", "Droop, dB", CellKind::figure, 98},
                   {"volts", "V", CellKind::figure, 62, 1440},
                   {"amperes", "A", CellKind::figure, 62, 1440},
                   {"efficiency", "Eff., %", CellKind::figure, 78, 1200},
                   {"meter_error", "Meter, dB", CellKind::figure, 96, 1200},
                   {"margin", "Margin", CellKind::margin, -1},
                   {"verdict", "Verdict", CellKind::verdict, 112, 0, 111}};
  for (std::size_t i = 0; i < all.rows.size(); ++i) {
    const OutputRow& r = all.rows[i];
    const auto plain = [](const std::optional<Figure>& f, int decimals) {
      return f ? number_text(f->value, decimals) : std::string();
    };
    ResultTable::Row row{i, {}};
    row.cells = {
        {r.label},
        {watt_cell(r.cold), std::nullopt, r.judgement && !r.is_hot_judged},
        {watt_cell(r.hot), std::nullopt, r.is_hot_judged},
        {cell_text(r.droop, 2)},
        {plain(r.volts, 2)},
        {plain(r.amperes, 2)},
        {cell_text(r.efficiency, 0)},
        {cell_text(r.meter_error, 1)},
        {r.judgement ? number_text(r.judgement->margin, 2, true) : std::string(), r.judgement},
        verdict_cell(r.judgement, r.is_taken(), evidence.steps[i].is_damaged)};
    table.rows.push_back(std::move(row));
  }
  table.note =
      "Hot: at the end of the key-down. Droop: hot against cold. Meter: the device\u2019s own "
      "wattmeter against the measured output. V and A at the device\u2019s terminals, cold.";
  return table;
}

Plot plot_of(const OutputPower& all) {
  Plot plot;
  plot.title = "Output over frequency";
  plot.x = {"Frequency", "Hz", true};
  PlotPanel power{{"Output, W", "W"}, {}};
  // Bands are places, not a sweep: nothing is said between them.
  PlotLayer cold{PlotLayer::Kind::trace, "cold", 1, false, {}};
  PlotLayer hot{PlotLayer::Kind::trace, "hot", 3, false, {}};
  PlotLayer limit{PlotLayer::Kind::limit, "specified", 1, false, {}};
  PlotPanel efficiency{{"Efficiency, %", ""}, {}};
  PlotLayer share{PlotLayer::Kind::trace, "efficiency", 2, false, {}};
  for (std::size_t i = 0; i < all.rows.size(); ++i) {
    const OutputRow& r = all.rows[i];
    if (!r.frequency_hz || *r.frequency_hz <= 0.0) continue;
    const double x = *r.frequency_hz;
    const auto add = [&](PlotLayer& layer, const Figure& f) {
      layer.points.push_back({x, f.value, f.expanded(), f.bound, i});
    };
    if (r.cold) add(cold, in_watts(*r.cold));
    if (r.hot) add(hot, in_watts(*r.hot));
    if (r.limit)
      limit.points.push_back({x, to_watt(Dbm{r.limit->value}).value, 0.0, Bound::none, i});
    if (r.efficiency) add(share, *r.efficiency);
  }
  power.layers = {limit, cold, hot};
  plot.panels.push_back(std::move(power));
  if (!share.points.empty()) {
    efficiency.layers = {share};
    plot.panels.push_back(std::move(efficiency));
  }
  const bool is_read = std::any_of(all.rows.begin(), all.rows.end(),
                                   [](const OutputRow& r) { return r.is_taken(); });
  plot.empty_words =
      is_read
          ? "Type the frequency of each step to see the output over frequency."
          : "Nothing read yet. Key a carrier into a load that is rated for it, and type output, "
            "volts and amperes into the grid below; once more at the end of the key-down shows "
            "the droop.";
  return plot;
}

Answer answer_of(const OutputRow& r, std::size_t step) {
  Answer a;
  a.figure = r.judged();
  a.shown = in_watts(a.figure);
  a.where = r.label;
  a.label = r.is_hot_judged
                ? fmt::format("Output after {} of key-down", duration_text(r.hot_after_s))
                : std::string("Output, cold");
  a.step = step;
  a.margin_span = kPowerMarginSpanDb;
  if (r.limit) {
    a.limit = r.stated;
    a.judgement = r.judgement;
    a.sentence = verdict_sentence(*r.judgement, "dB");
  } else {
    a.sentence = "No limit is chosen, so nothing is judged.";
  }
  return a;
}

Result evaluate_output(const Evidence& evidence) {
  const OutputPower all = assess_output(output_steps(evidence), evidence.limit);
  Result result;
  result.method = "output";
  result.remarks = all.remarks;
  if (evidence.limit && !power_limit_dbm(*evidence.limit))
    result.remarks.push_back({"limit_unit", Severity::caution,
                              "The limit is in " + evidence.limit->unit + ": it judges no power.",
                              "Choose a limit in W or dBm"});
  result.tables.push_back(table_of(all, evidence));
  result.plots.push_back(plot_of(all));
  if (const auto best = all.headline()) {
    // The headline first, then each step's own, so that a chosen step has its answer.
    result.answers.push_back(answer_of(all.rows[*best], *best));
    for (std::size_t i = 0; i < all.rows.size(); ++i) {
      if (all.rows[i].is_taken() && i != *best) result.answers.push_back(answer_of(all.rows[i], i));
    }
  }
  for (const OutputRow& r : all.rows) {
    for (const auto* f : {&r.cold, &r.hot}) {
      if (!*f) continue;
      StepFigure s{r.label, **f, r.limit, std::nullopt};
      if (r.limit) s.judgement = judge_power(**f, *r.limit);
      result.step_figures.push_back(s);
    }
    for (const auto* f : {&r.droop, &r.efficiency, &r.meter_error, &r.volts, &r.amperes}) {
      if (*f) result.step_figures.push_back({r.label, **f});
    }
  }
  return result;
}

LimitField power_limit(const Evidence&) {
  LimitField f;
  f.head = "At least";
  f.hint = "All steps are judged by it; one with a specification of its own by that.";
  f.label = "Limit";
  f.example = "30 W";
  f.unit = "W";
  return f;
}

}  // namespace

std::vector<OutputStep> output_steps(const Evidence& evidence) {
  std::vector<OutputStep> steps;
  for (const EvidenceStep& from : evidence.steps) {
    OutputStep step;
    step.label = from.label;
    if (const Condition* f = find_condition(from.conditions, kFrequency))
      step.frequency_hz = f->value;
    if (const Condition* s = find_condition(from.conditions, kSpecified))
      step.specified_dbm = s->value;
    step.readings = {reading_at(from, ReadingRole::at, 0.0),
                     reading_at(from, ReadingRole::after, key_down_s(from))};
    steps.push_back(std::move(step));
  }
  return steps;
}

const Method& output_method() {
  using Kind = TypedField::Kind;
  constexpr auto kHot = ReadingRole::after;
  static const Method method{
      .id = "output",
      .step_head = "Band and setting",
      .step_example = "14.2 MHz, full power",
      .fields = {{.kind = Kind::condition,
                  .quantity = kFrequency,
                  .head = "Frequency",
                  .hint = "Where it is keyed",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "MHz",
                  .width = 74},
                 {.quantity = kOutput,
                  .head = "Cold",
                  .hint = "Output right after key down, at the device: all attenuation counted in",
                  .unit = "dBm",
                  .typed_unit = "W",
                  .convention = "PEP",
                  .u = kPowerMeterU,
                  .width = 56,
                  .live = kPowerMeter},
                 {.quantity = kOutput,
                  .role = kHot,
                  .head = "Hot",
                  .hint = "Output at the end of the key-down",
                  .unit = "dBm",
                  .typed_unit = "W",
                  .convention = "PEP",
                  .u = kPowerMeterU,
                  .width = 56,
                  .live = kPowerMeter},
                 {.kind = Kind::condition,
                  .quantity = kKeyDown,
                  .head = "Key-down",
                  .hint = "From the first reading to the last; a minute if nothing is typed",
                  .asked = Quantity::duration,
                  .unit = "s",
                  .width = 70},
                 {.quantity = kVolts,
                  .head = "V cold",
                  .hint = "At the device\u2019s terminals, keyed",
                  .asked = Quantity::voltage,
                  .unit = "V",
                  .u_relative = kVoltsU,
                  .width = 56,
                  .live = kSupplyVoltage},
                 {.quantity = kAmperes,
                  .head = "A cold",
                  .hint = "Supply current, keyed",
                  .asked = Quantity::current,
                  .unit = "A",
                  .u_relative = kAmperesU,
                  .width = 52,
                  .live = kSupplyCurrent},
                 {.quantity = kVolts,
                  .role = kHot,
                  .head = "V hot",
                  .hint = "At the device\u2019s terminals, at the end of the key-down",
                  .asked = Quantity::voltage,
                  .unit = "V",
                  .u_relative = kVoltsU,
                  .width = 56,
                  .live = kSupplyVoltage},
                 {.quantity = kForward,
                  .head = "Forward",
                  .hint = "Forward power as the device\u2019s own wattmeter shows it",
                  .asked = Quantity::power,
                  .unit = "W",
                  .width = 60},
                 {.quantity = kReflected,
                  .head = "Reflected",
                  .hint = "Reflected power as the device\u2019s own wattmeter shows it",
                  .asked = Quantity::power,
                  .unit = "W",
                  .width = 64},
                 {.kind = Kind::condition,
                  .quantity = kSpecified,
                  .head = "Specified",
                  .hint = "Of this band and setting, instead of the test\u2019s limit",
                  .unit = "dBm",
                  .typed_unit = "W",
                  .width = 68}},
      .limit = power_limit,
      .caution =
          "A keyed transmitter can burn and its load gets hot: key only into a load that is "
          "rated for it, and for no longer than that. Local codes and your licence come first.",
      .hold_s = key_down_s,
      .evaluate = evaluate_output};
  return method;
}

}  // namespace heron
