#include "core/method/receiver/indicator_method.h"

#include "core/method/receiver/indicator_result.h"
#include "core/method/receiver/indicator_settings.h"
#include "core/method/receiver/show_run.h"

namespace heron {
namespace {

StepPlan plan_readings(const Evidence& evidence) {
  return {"Plan S1 to S9+40 on 14.2 MHz",
          {"14.2 MHz, S1", "14.2 MHz, S3", "14.2 MHz, S5", "14.2 MHz, S7", "14.2 MHz, S9",
           "14.2 MHz, S9+20", "14.2 MHz, S9+40"},
          evidence.settings};
}

}  // namespace

const Method& indicator_method() {
  static const Method method{
      .id = "indicator",
      .step_head = "Band and reading",
      .step_example = "14.2 MHz, S9",
      .fields = indicator_fields(),
      .settings_key = kIndicatorSettings,
      .settings = indicator_setting_fields(),
      .usual_settings = usual_indicator_settings,
      .setting_words = indicator_setting_words,
      .check = check_indicator_settings,
      .bare_unit = bare_indicator_unit,
      .limit = indicator_limit,
      .caution =
          "A transmitter keyed into a generator destroys it: disable transmit first. Strong "
          "levels may harm a front end: no more than the handbook allows.",
      .caution_head = "Before you connect it",
      .is_joint = true,
      .is_typed_first = true,
      .step_hint =
          "Band and what it shows: \u201c14.2 MHz, S9+20\u201d, or \u201c14.2 MHz, 6\u201d for "
          "six segments",
      .plan = plan_readings,
      .run = show_run,
      .evaluate = evaluate_indicator};
  return method;
}

}  // namespace heron
