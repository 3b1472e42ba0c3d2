#include "core/method/phase_noise/family_method.h"

#include "core/method/phase_noise/family_result.h"
#include "core/method/phase_noise/family_settings.h"
#include "core/method/phase_noise/noise_method.h"

namespace heron {
namespace {

StepPlan plan_settings(const Evidence& evidence) {
  return {"Plan a charge-pump current from 0.25 to 4 mA",
          {"0.25 mA", "0.5 mA", "1 mA", "2 mA", "4 mA"},
          evidence.settings};
}

}  // namespace

const Method& noise_family_method() {
  static const Method method = reads_noise(
      {.id = "noise_setting",
       .step_head = "Setting",
       .step_example = "1 mA",
       .fields = {{.kind = TypedField::Kind::condition,
                   .quantity = kWordCondition,
                   .head = "Word",
                   .hint = "What is programmed for it",
                   .asked = Quantity::number,
                   .unit = "",
                   .width = 80}},
       .settings_key = kFamilySettings,
       .settings = family_setting_fields(),
       .usual_settings = usual_family_settings,
       .setting_words = family_setting_words,
       .check = check_family_settings,
       .limit = family_limit,
       .step_hint =
           "The setting, such as \u201c1 mA\u201d; \u201c1 mA, before\u201d is for comparison only",
       .plan = plan_settings,
       .evaluate = evaluate_family});
  return method;
}

}  // namespace heron
