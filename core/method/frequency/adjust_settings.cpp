#include "core/method/frequency/adjust_settings.h"

#include <cmath>

#include "core/error.h"
#include "core/method/frequency/drift.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/live_quantity.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

/// What the warm-up still has before it so long after switching on.
void take_shift_of_record(AdjustPlan& plan, const Evidence& drift, double minutes) {
  const Drift d = assess_drift(drift);
  if (!d.fit.warm_up || !d.error || d.relative_to_hz <= 0.0 || !plan.nominal_hz) return;
  const double per_hz = *plan.nominal_hz / d.relative_to_hz;
  double left = 0.0;
  double u = 0.0;
  for (const auto& w : {d.fit.warm_up, d.fit.second_warm_up}) {
    if (!w) continue;
    const double kept = std::exp(-60.0 * minutes / w->tau_s);
    left += w->amplitude_hz * kept;
    u = std::hypot(u, w->u_amplitude_hz * kept,
                   w->amplitude_hz * kept * 60.0 * minutes / w->tau_s * w->u_tau_s / w->tau_s);
  }
  plan.shift_hz = -left * per_hz;
  plan.u_shift_hz = 2.0 * u * per_hz;
  plan.has_shift = plan.is_shift_of_record = true;
}

json plain_text(const std::string& text) {
  return text.empty() ? json(nullptr) : json(text);
}

std::string text_of(const json& kept) {
  return kept.is_string() ? kept.get<std::string>() : std::string();
}

SettingField words_setting(const char* key, const char* head, const char* hint) {
  return {.kind = SettingField::Kind::text,
          .key = key,
          .head = head,
          .hint = hint,
          .text = {.parse = plain_text, .written = text_of, .understood = text_of}};
}

/// A shift may go either way; typed in hertz.
json parse_shift(const std::string& text) {
  std::string typed = normalised_typing(text);
  if (typed.empty()) return nullptr;
  const auto number = leading_number(typed);
  if (!number || (!number->rest.empty() && lower_case(number->rest) != "hz"))
    throw InputError("\u201c" + text + "\u201d", "", "it is no shift in hertz",
                     "Type it like \u22121.8 Hz");
  return number->value;
}

}  // namespace

AdjustPlan adjust_plan(const Evidence& evidence) {
  AdjustPlan plan;
  const json& from = own_settings(evidence.settings, kAdjustSettings);
  try {
    plan.nominal_hz = number_from(from, "nominal_hz");
    plan.source_ppm = number_from(from, "source_ppm");
    if (const auto shift = number_from(from, "shift_hz")) {
      plan.shift_hz = *shift;
      plan.has_shift = true;
    }
    plan.u_shift_hz = number_from(from, "u_shift_hz").value_or(0.0);
    plan.every_s = number_from(from, "every_s").value_or(plan.every_s);
    plan.length_s = number_from(from, "length_s").value_or(plan.length_s);
    plan.is_power_cycled = from.value("power_cycled", false);
    if (from.contains("original")) plan.original = text_of(from.at("original"));
    if (from.contains("renewed")) plan.renewed = text_of(from.at("renewed"));
    const auto warm_s = number_from(from, "warm_s");
    if (!plan.has_shift && warm_s && evidence.companion != nullptr)
      take_shift_of_record(plan, *evidence.companion, *warm_s / 60.0);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  plan.limit = ppm_limit(evidence);
  return plan;
}

json usual_adjust_settings() {
  return {{"nominal_hz", nullptr}, {"source_ppm", nullptr}, {"shift_hz", nullptr},
          {"u_shift_hz", nullptr}, {"warm_s", nullptr},     {"original", nullptr},
          {"renewed", nullptr},    {"power_cycled", false}, {"every_s", nullptr},
          {"length_s", nullptr}};
}

std::string check_adjust_settings(const json& settings) {
  const auto hz = number_from(own_settings(settings, kAdjustSettings), "nominal_hz");
  return hz && !(*hz > 0.0) ? "The nominal frequency must be more than 0." : "";
}

std::string adjust_setting_words(const Evidence& evidence) {
  const AdjustPlan plan = adjust_plan(evidence);
  return plan.nominal_hz ? frequency_text(*plan.nominal_hz) : "not known";
}

std::vector<SettingField> adjust_setting_fields() {
  constexpr const char* kZero = "Settled zero";
  std::vector<SettingField> fields{
      quantity_setting("nominal_hz", "", "Nominal", "Of the oscillator that is counted.",
                       Quantity::frequency, "Hz", "Not known", "20 MHz"),
      quantity_setting("source_ppm", "", "\u00b1 of the source",
                       "How far off the counter\u2019s timebase may be.", Quantity::relative, "ppm",
                       "Not known", "0.01 ppm"),
      words_setting(
          "original", "Original setting",
          "As it was found, so that it can be restored: \u201c3 o\u2019clock, menu 41\u201d"),
      words_setting("renewed", "New setting", "As it is left"),
      {.kind = SettingField::Kind::flag,
       .key = "power_cycled",
       .head = "Saved, switched off and on, read again",
       .hint = "Of a stepped setting: the re-check is read after that"},
      {.kind = SettingField::Kind::text,
       .key = "shift_hz",
       .group = kZero,
       .head = "Shift when closed and warm",
       .hint = "How much higher it reads warm, closed and right way up than now: \u22121.8 Hz",
       .text = {.parse = parse_shift,
                .written =
                    [](const json& kept) {
                      return kept.is_number() ? number_text(kept.get<double>(), 2, true) + " Hz"
                                              : std::string();
                    },
                .understood =
                    [](const json& kept) {
                      return kept.is_number()
                                 ? "zero is " + number_text(-kept.get<double>(), 2, true) + " Hz"
                                 : std::string("no shift");
                    }}},
      quantity_setting("u_shift_hz", kZero, "\u00b1 of the shift", "Expanded.", Quantity::frequency,
                       "Hz", "None", "0.6 Hz"),
      quantity_setting(
          "warm_s", kZero, "Switched on for",
          "The drift record of this evaluation then tells what is left of the warm-up.",
          Quantity::duration, "s", "Not used", "62 min")};
  for (const SettingField& f : log_fields("1 s, as usual", "30 min, as usual")) fields.push_back(f);
  return fields;
}

std::vector<TypedField> adjust_fields() {
  using Kind = TypedField::Kind;
  return {{.kind = Kind::condition,
           .quantity = "frequency",
           .head = "Nominal",
           .hint = "What it should be at this place; empty: that of the oscillator",
           .asked = Quantity::frequency,
           .unit = "Hz",
           .typed_unit = "MHz",
           .width = 104},
          {.kind = Kind::condition,
           .quantity = kSettingCondition,
           .head = "Setting",
           .hint = "Of a stepped adjustment: its number",
           .asked = Quantity::number,
           .unit = "",
           .width = 72},
          counted_field(ReadingRole::before, "Found",
                        "Before anything was turned, case closed and warm"),
          counted_field(ReadingRole::at, "Adjusted", "Hands off, before the case is closed"),
          counted_field(ReadingRole::after, "Re-checked", "Case closed, right way up, warm again")};
}

}  // namespace heron
