#include "core/method/frequency/drift_settings.h"

#include "core/method/frequency/band_list.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/live_quantity.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

using nlohmann::json;

bool is_by_tone(const json& settings) {
  return own_settings(settings, kDriftSettings).value("way", "counter") != "counter";
}

}  // namespace

DriftPlan drift_plan(const Evidence& evidence) {
  DriftPlan plan;
  const json& from = own_settings(evidence.settings, kDriftSettings);
  try {
    plan.reference = reference_from(from);
    plan.source_ppm = number_from(from, "source_ppm");
    plan.settle_ppm = number_from(from, "settle_ppm").value_or(plan.settle_ppm);
    plan.is_round_nominal = from.value("round", "end") == "nominal";
    plan.settle_limit_s = number_from(from, "settle_limit_s");
    plan.need_hz = number_from(from, "need_hz");
    plan.least_span_k = number_from(from, "least_span_k").value_or(plan.least_span_k);
    plan.most_per_kelvin_ppm = number_from(from, "per_kelvin_ppm");
    plan.every_s = number_from(from, "every_s").value_or(plan.every_s);
    plan.length_s = number_from(from, "length_s").value_or(plan.length_s);
    plan.bands_hz = bands_from(from);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  plan.limit = ppm_limit(evidence);
  return plan;
}

json usual_drift_settings() {
  return {{"way", "counter"},          {"nominal_hz", nullptr}, {"tone_hz", nullptr},
          {"source_ppm", nullptr},     {"settle_ppm", nullptr}, {"round", "end"},
          {"settle_limit_s", nullptr}, {"need_hz", nullptr},    {"least_span_k", nullptr},
          {"per_kelvin_ppm", nullptr}, {"every_s", nullptr},    {"length_s", nullptr},
          {kBandList, json::array()}};
}

std::string check_drift_settings(const json& settings) {
  const json& own = own_settings(settings, kDriftSettings);
  const auto is_none = [&](const char* key) {
    const auto v = number_from(own, key);
    return v && !(*v > 0.0);
  };
  if (is_none("nominal_hz")) return "The nominal frequency must be more than 0.";
  if (is_none("settle_ppm")) return "The width that it settles into must be more than 0.";
  if (is_none("every_s")) return "The time between two readings must be more than 0.";
  return "";
}

std::string drift_setting_words(const Evidence& evidence) {
  const DriftPlan plan = drift_plan(evidence);
  if (!plan.reference.nominal_hz) return "not known";
  return frequency_text(*plan.reference.nominal_hz);
}

std::vector<SettingField> drift_setting_fields() {
  constexpr const char* kSettling = "Settling";
  constexpr const char* kTemperatures = "Temperature";
  std::vector<SettingField> fields = reference_fields("Not known");
  const std::vector<SettingField> own{
      quantity_setting("source_ppm", "", "\u00b1 of the source",
                       "How far off the counter\u2019s timebase or the carrier may be.",
                       Quantity::relative, "ppm", "Not known", "0.01 ppm"),
      band_list_field(),
      quantity_setting("need_hz", "", "Need on each band",
                       "How far off your use lets it be, either way.", Quantity::frequency, "Hz",
                       "None", "100 Hz"),
      quantity_setting("settle_ppm", kSettling, "Settled within",
                       "It is settled when its curve stays this close.", Quantity::relative, "ppm",
                       "0.1 ppm, as usual", "0.1 ppm"),
      {.key = "round",
       .group = kSettling,
       .head = "Of",
       .hint = "Round what it has to stay",
       .choices = {{"end", "where it ends"}, {"nominal", "nominal"}}},
      quantity_setting("settle_limit_s", kSettling, "Settled by",
                       "After switching on, at the latest.", Quantity::duration, "s", "None",
                       "30 min"),
      quantity_setting("per_kelvin_ppm", kTemperatures, "Most per kelvin",
                       "How much the frequency may follow the temperature.", Quantity::relative,
                       "ppm", "None", "0.05 ppm"),
      quantity_setting("least_span_k", kTemperatures, "Judged from a span of",
                       "Over fewer kelvin nothing is said of the temperature.",
                       Quantity::temperature, "\u00b0C", "5 K, as usual", "5 \u00b0C")};
  fields.insert(fields.end(), own.begin(), own.end());
  for (const SettingField& f : log_fields("10 s, as usual", "90 min, as usual"))
    fields.push_back(f);
  return fields;
}

std::string_view drift_bare_unit(const TypedField& field, const json& settings) {
  if (field.quantity == kCountedFrequency)
    return is_by_tone(settings) ? std::string_view() : std::string_view("MHz");
  if (field.quantity == kToneReading)
    return is_by_tone(settings) ? std::string_view("Hz") : std::string_view();
  return field.typed_unit.empty() ? field.unit : field.typed_unit;
}

std::vector<TypedField> drift_fields() {
  using Kind = TypedField::Kind;
  return {{.kind = Kind::condition,
           .quantity = kElapsedCondition,
           .head = "After",
           .hint = "Since it was switched on; left empty, the moment counts when it is typed",
           .asked = Quantity::duration,
           .unit = "s",
           .typed_unit = "min",
           .width = 90},
          counted_field(),
          {.quantity = kToneReading,
           .head = "Tone",
           .hint = "Tone heard of the carrier",
           .asked = Quantity::frequency,
           .unit = "Hz",
           .typed_unit = "Hz",
           .width = 110},
          {.quantity = kTemperature,
           .head = "Temperature",
           .hint = "Of the case, or of the room",
           .asked = Quantity::temperature,
           .unit = "\u00b0C",
           .typed_unit = "\u00b0C",
           .u = 0.5,
           .width = 110,
           .live = kTemperature}};
}

}  // namespace heron
