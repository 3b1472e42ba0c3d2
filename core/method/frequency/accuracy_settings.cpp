#include "core/method/frequency/accuracy_settings.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/band_list.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

const json& frequency_settings(const json& settings) {
  return own_settings(settings, kAccuracySettings);
}

/// What each way is called: kept, in a word, in the menu.
struct WayName {
  AccuracyWay way;
  const char* id;
  const char* word;
  const char* choice;
};
constexpr std::array<WayName, 4> kWays{
    {{AccuracyWay::counter, "counter", "counter", "counter"},
     {AccuracyWay::beat_note, "beat_note", "beat note", "beat note of a known carrier"},
     {AccuracyWay::zero_beat, "zero_beat", "zero beat", "zero beat with a known carrier"},
     {AccuracyWay::generator, "generator", "generator", "generator into the receiver"}}};

const WayName& way_of(const json& settings) {
  return named_or_first(kWays, frequency_settings(settings).value("way", "counter"));
}

/// The tone of a recording: mean of its parts, as certain as they scatter.
void take_tone(const EvidenceStep& s, AccuracyReading& r) {
  const auto* log = dynamic_cast<const ToneLog*>(s.analysis.get());
  if (log == nullptr || log->tone_hz.empty()) return;
  const auto n = static_cast<double>(log->tone_hz.size());
  double mean = 0.0;
  for (const double hz : log->tone_hz) mean += hz / n;
  double square = 0.0;
  double own = 0.0;
  for (std::size_t i = 0; i < log->tone_hz.size(); ++i) {
    square += std::pow(log->tone_hz[i] - mean, 2.0);
    own += log->u_hz[i] * log->u_hz[i];
  }
  r.read_hz = mean;
  r.u_tone_hz = n > 1.0 ? std::sqrt(square / (n - 1.0) / n) : std::sqrt(own);
}

bool says_lower(const std::string& label) {
  return lower_case(label).find("lsb") != std::string::npos;
}

std::vector<SettingChoice> way_choices() {
  std::vector<SettingChoice> all;
  for (const WayName& w : kWays) all.push_back({w.id, w.choice});
  return all;
}

}  // namespace

AccuracyPlan accuracy_plan(const Evidence& evidence) {
  AccuracyPlan plan;
  const json& from = frequency_settings(evidence.settings);
  try {
    plan.way = way_of(evidence.settings).way;
    plan.counter.gate_s = number_from(from, "gate_s").value_or(1.0);
    plan.counter.timebase_ppm = number_from(from, "timebase_ppm");
    plan.counter.ageing_ppm_per_year = number_from(from, "ageing_ppm").value_or(0.0);
    plan.counter.years = number_from(from, "months").value_or(0.0) / 12.0;
    plan.carrier_ppm = number_from(from, "source_ppm");
    plan.path_ppm = number_from(from, "path_ppm").value_or(0.0);
    plan.tone_u_hz = number_from(from, "tone_u_hz").value_or(plan.tone_u_hz);
    plan.dial_step_hz = number_from(from, "dial_step_hz").value_or(plan.dial_step_hz);
    plan.least_beat_hz = number_from(from, "least_beat_hz").value_or(plan.least_beat_hz);
    plan.is_shared = from.value("shared", false);
    plan.bands_hz = bands_from(from);
    if (from.contains("map")) plan.map = oscillator_map_from(from.at("map"));
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  plan.limit = ppm_limit(evidence);
  return plan;
}

std::vector<AccuracyReading> accuracy_readings(const Evidence& evidence, const AccuracyPlan& plan) {
  const bool is_lower = frequency_settings(evidence.settings).value("sideband", "usb") == "lsb";
  std::vector<AccuracyReading> all;
  for (const EvidenceStep& s : evidence.steps) {
    AccuracyReading r;
    r.label = s.label;
    if (const Condition* c = find_condition(s.conditions, kExpectedCondition))
      r.expected_hz = c->value;
    if (const Condition* c = find_condition(s.conditions, kDialCondition)) r.dial_hz = c->value;
    const char* quantity = plan.way == AccuracyWay::counter ? kCountedFrequency : kToneReading;
    if (const Reading* read = find_reading(s.readings, quantity))
      r.read_hz = read->value;
    else if (plan.way != AccuracyWay::counter)
      take_tone(s, r);
    for (const Reading& one : s.readings)
      if (one.quantity == quantity && one.source == ReadingSource::live)
        r.counts.push_back(one.value);
    const bool has_usb = lower_case(s.label).find("usb") != std::string::npos;
    r.is_upper = has_usb || (!says_lower(s.label) && !is_lower);
    all.push_back(std::move(r));
  }
  return all;
}

json usual_accuracy_settings() {
  return {{"way", "counter"},        {"sideband", "usb"},        {"gate_s", nullptr},
          {"timebase_ppm", nullptr}, {"ageing_ppm", nullptr},    {"months", nullptr},
          {"source_ppm", nullptr},   {"path_ppm", nullptr},      {"tone_u_hz", nullptr},
          {"dial_step_hz", nullptr}, {"least_beat_hz", nullptr}, {"shared", false},
          {"map", json::array()},    {kBandList, json::array()}};
}

std::string accuracy_way_words(const Evidence& evidence) {
  return way_of(evidence.settings).word;
}

std::string check_accuracy_settings(const json& settings) {
  const auto gate = number_from(frequency_settings(settings), "gate_s");
  return gate && !(*gate > 0.0) ? "The gate must be longer than 0." : "";
}

std::vector<SettingField> accuracy_setting_fields() {
  using Kind = SettingField::Kind;
  constexpr const char* kCounter = "Counter";
  constexpr const char* kSource = "Carrier and dial";
  return {
      {.key = "way",
       .head = "Read by",
       .hint = "How it is known how far off the reference is",
       .choices = way_choices()},
      band_list_field(),
      {.kind = Kind::text,
       .key = "map",
       .head = "Oscillator map",
       .hint = "Of a device with several oscillators, a line a band: 14.2 MHz USB = 23.2 reference "
               "\u2212 9 carrier. A test point too: 20 MHz = 20 reference",
       .text = {.parse = parse_oscillator_map,
                .written = oscillator_map_text,
                .understood =
                    [](const json& kept) {
                      const OscillatorMap map = oscillator_map_from(kept);
                      return fmt::format("{} bands, {} oscillators", map.bands.size(),
                                         map.oscillators.size());
                    }}},
      quantity_setting("gate_s", kCounter, "Gate",
                       "Of the counter: its resolution is one count of it.", Quantity::duration,
                       "s", "1 s, as usual", "10 s"),
      quantity_setting("timebase_ppm", kCounter, "Timebase",
                       "How far off the counter\u2019s timebase may be, as it was calibrated.",
                       Quantity::relative, "ppm", "Not known", "0.1 ppm"),
      quantity_setting("ageing_ppm", kCounter, "Ageing per year",
                       "Of the timebase since it was calibrated.", Quantity::relative, "ppm",
                       "None", "0.05 ppm"),
      quantity_setting("months", kCounter, "Calibrated since", "How long ago.", Quantity::interval,
                       "months", "Just now", "18 months"),
      {.key = "sideband",
       .group = kSource,
       .head = "Sideband",
       .hint = "Of readings whose name does not say USB or LSB",
       .choices = {{"usb", "USB"}, {"lsb", "LSB"}}},
      quantity_setting("source_ppm", kSource, "\u00b1 of the source",
                       "How far off the station or the generator may be.", Quantity::relative,
                       "ppm", "Not known", "0.01 ppm"),
      quantity_setting("path_ppm", kSource, "Scatter of the path",
                       "Standard uncertainty that propagation adds to one reading.",
                       Quantity::relative, "ppm", "None", "0.05 ppm"),
      quantity_setting("tone_u_hz", kSource, "\u00b1 of the tone",
                       "Standard uncertainty of a tone that is typed, by ear or from a spectrum.",
                       Quantity::frequency, "Hz", "0.5 Hz, as usual", "0.1 Hz"),
      quantity_setting("dial_step_hz", kSource, "Dial step", "Smallest step of the dial.",
                       Quantity::frequency, "Hz", "10 Hz, as usual", "10 Hz"),
      quantity_setting("least_beat_hz", kSource, "Slowest beat heard",
                       "A slower one is not told from none while you look for zero beat.",
                       Quantity::frequency, "Hz", "20 Hz, as usual", "5 Hz"),
      {.kind = Kind::flag,
       .key = "shared",
       .head = "Instrument and device share one source",
       .hint = "Both are disciplined by the same: then this shows that they hold, not accuracy"}};
}

std::string_view accuracy_bare_unit(const TypedField& field, const json& settings) {
  const AccuracyWay way = way_of(settings).way;
  if (field.quantity == kCountedFrequency)
    return way == AccuracyWay::counter ? std::string_view("MHz") : std::string_view();
  if (field.quantity == kDialCondition)
    return way == AccuracyWay::counter ? std::string_view() : std::string_view("MHz");
  if (field.quantity == kToneReading)
    return way == AccuracyWay::beat_note || way == AccuracyWay::generator ? std::string_view("Hz")
                                                                          : std::string_view();
  return field.typed_unit.empty() ? field.unit : field.typed_unit;
}

}  // namespace heron
