#include "core/method/frequency/adjust_method.h"

#include "core/method/frequency/adjust_result.h"
#include "core/method/frequency/adjust_settings.h"
#include "core/method/frequency/drift_method.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/log_evidence.h"

namespace heron {
namespace {

LimitField enough(const Evidence&) {
  return ppm_limit_field("Enough", "How far off is near enough, either way.", "0.25 ppm");
}

LogRecipe log_while_adjusting(const Evidence& evidence) {
  const AdjustPlan plan = adjust_plan(evidence);
  DriftReference reference;
  reference.nominal_hz = plan.nominal_hz;
  return frequency_log_recipe(reference, plan.every_s, plan.length_s);
}

StepPlan plan_rows(const Evidence& evidence) {
  return {"Plan found, adjusted and re-check",
          {"Test point", "7.1 MHz", "28.2 MHz"},
          evidence.settings};
}

}  // namespace

const Method& adjust_method() {
  static const Method method{
      .id = "adjust",
      .step_head = "Reading",
      .step_example = "test point",
      .fields = adjust_fields(),
      .settings_key = kAdjustSettings,
      .settings = adjust_setting_fields(),
      .usual_settings = usual_adjust_settings,
      .setting_words = adjust_setting_words,
      .check = check_adjust_settings,
      .bare_unit =
          [](const TypedField& field, const nlohmann::json&) {
            return field.typed_unit.empty() ? field.unit : field.typed_unit;
          },
      .limit = enough,
      .caution =
          "Non-metallic tool, one hand: a metal blade shorts the supply. Mains sets carry high "
          "voltage under the same lid. Local codes and licensed practice come first.",
      .caution_head = "Before you turn",
      .companion = drift_method().id,
      .step_hint = "Where it is read, or the setting",
      .plan = plan_rows,
      .read_log =
          [](const CsvTable& table, const Evidence& evidence) {
            return series_of_log(table, adjust_plan(evidence).nominal_hz);
          },
      .log = log_while_adjusting,
      .evaluate = evaluate_adjust};
  return method;
}

}  // namespace heron
