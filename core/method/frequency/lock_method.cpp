#include "core/method/frequency/lock_method.h"

#include <string>

#include "core/method/frequency/lock_result.h"
#include "core/method/frequency/lock_settings.h"

namespace heron {
namespace {

LimitField needed(const Evidence&) {
  LimitField f;
  f.head = "Margin needed";
  f.hint = "How much weaker the reference may become before the device lets go.";
  f.label = "Limit";
  f.example = "6 dB";
  f.asked = Quantity::gain;
  f.unit = "dB";
  f.sense = Sense::at_least;
  f.is_depth = true;
  return f;
}

/// 1 dB steps down and up again.
StepPlan plan_run(const Evidence& evidence) {
  constexpr int kMostDb = 16;
  StepPlan plan;
  plan.words = "Plan a run of 1 dB, down and up";
  plan.settings = evidence.settings;
  for (int db = 0; db <= kMostDb; ++db) plan.steps.push_back(std::to_string(db) + " dB, falling");
  for (int db = kMostDb - 1; db >= 0; --db)
    plan.steps.push_back(std::to_string(db) + " dB, rising");
  return plan;
}

}  // namespace

const Method& lock_method() {
  static const Method method{.id = "lock",
                             .step_head = "Step",
                             .step_example = "3 dB, falling",
                             .fields = lock_fields(),
                             .settings_key = kLockSettings,
                             .settings = lock_setting_fields(),
                             .usual_settings = usual_lock_settings,
                             .setting_words = lock_setting_words,
                             .check = check_lock_settings,
                             .limit = needed,
                             .step_hint = "\u201c3 dB, falling\u201d says what is added",
                             .plan = plan_run,
                             .evaluate = evaluate_lock};
  return method;
}

}  // namespace heron
