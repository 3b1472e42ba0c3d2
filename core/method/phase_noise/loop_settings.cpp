#include "core/method/phase_noise/loop_settings.h"

#include "core/error.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

using nlohmann::json;

}  // namespace

LoopPlan loop_plan(const Evidence& evidence) {
  LoopPlan plan;
  const json& from = own_settings(evidence.settings, kLoopSettings);
  try {
    if (from.contains("built")) plan.built = with_loop_text(plan.built, from.at("built"));
    const json tried = from.value("tried", json::object());
    if (plan.built.has_all && tried.is_object() && !tried.empty())
      plan.tried = with_loop_text(plan.built, tried);
    plan.offset_hz = number_from(from, "offset_hz").value_or(plan.offset_hz);
    // Typed as a tolerance in per cent, rectangular.
    if (const auto percent = number_from(from, "tolerance_percent"))
      plan.u_parts = u_rectangular(*percent / 100.0);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "\u00b0") plan.limit = evidence.limit;
  return plan;
}

json usual_loop_settings() {
  return {{"built", json::object()},
          {"tried", json::object()},
          {"offset_hz", nullptr},
          {"tolerance_percent", nullptr}};
}

std::string check_loop_settings(const json& settings) {
  const json& own = own_settings(settings, kLoopSettings);
  const json built = own.value("built", json::object());
  if (built.is_object() && built.contains("r3_ohm") != built.contains("c3_f"))
    return "R3 and C3 go together: type both, or neither.";
  return "";
}

std::string loop_setting_words(const Evidence& evidence) {
  const LoopPlan plan = loop_plan(evidence);
  return plan.built.has_all ? "as built" : "not known";
}

std::vector<SettingField> loop_setting_fields() {
  using Kind = SettingField::Kind;
  const auto loop_text = [](const char* key, const char* head, const char* hint) {
    return SettingField{
        .kind = Kind::text,
        .key = key,
        .head = head,
        .hint = hint,
        .text = {.parse = parse_loop_text, .written = written_loop, .understood = told_loop}};
  };
  return {loop_text("built", "The loop",
                    "A line each: charge pump 0.25, 0.5, 1, 2, 4 mA; VCO gain 30 MHz/V; N 144; "
                    "R2 560; C1 1 nF; C2 22 nF; R3 1k; C3 100 pF; reference 10 MHz; multiplied by "
                    "4; for its noise oscillator, detector floor, pushing, supply noise, series R, "
                    "bulk C"),
          loop_text("tried", "Tried instead",
                    "Only what is different: R2 470; charge pump 3 mA; bulk C 220 uF"),
          frequency_setting("offset_hz", "", "Noise told at", "Where it counts in your use.",
                            "20 kHz, as usual", "20 kHz", "Hz"),
          quantity_setting("tolerance_percent", "", "Parts within, %",
                           "Tolerance of parts and VCO gain, either way.", Quantity::number, "",
                           "3.5 %, as usual", "5")};
}

LimitField loop_limit(const Evidence&) {
  LimitField f;
  f.head = "Phase margin at least";
  f.hint = "Less makes the loop peak, and its noise with it.";
  f.label = "Limit";
  f.example = "45";
  f.asked = Quantity::number;
  f.unit = "\u00b0";
  f.sense = Sense::at_least;
  f.span = 20.0;
  return f;
}

}  // namespace heron
