#include "core/method/frequency/lock_method.h"

#include <string>

#include "core/method/frequency/lock_result.h"
#include "core/method/frequency/lock_settings.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"

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

/// The same with a step attenuator and a counter.
LogRecipe attenuator_run(const Evidence& evidence) {
  const LockPlan plan = lock_plan(evidence);
  LogRecipe r;
  r.quantities = {kCountedFrequency};
  r.every_s = 1.0;
  r.nominal_hz = plan.nominal_hz;
  r.reference_dbm = plan.source_dbm;
  r.stop_condition = kAttenuation;
  for (const std::string& step : plan_run(evidence).steps)
    r.stops.push_back({step, std::stod(step)});
  if (!plan.nominal_hz || !plan.offset_hz) {
    r.refusal = !plan.nominal_hz ? "What is counted when it is locked is not known."
                                 : "Locked and free running may be at the same frequency: loss "
                                   "would not be seen.";
    r.what_to_do = !plan.nominal_hz ? "Type the nominal frequency among the settings"
                                    : "Set the internal oscillator off, and type by how much";
  } else if (plan.is_restored) {
    r.refusal = "The internal offset is said to be restored.";
    r.what_to_do = "Set it again for another run, and take the tick away";
  }
  return r;
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
                             .bare_unit =
                                 [](const TypedField& field, const nlohmann::json&) {
                                   return field.typed_unit.empty() ? field.unit : field.typed_unit;
                                 },
                             .limit = needed,
                             .record = "tone_log",
                             .record_format = kToneLogFormat,
                             .analyse =
                                 [](const CaptureOpener& open, const TakeContext&,
                                    const Progress& progress, const std::stop_token& stop) {
                                   return analyse_tone_log(open, std::nullopt, progress, stop);
                                 },
                             .read_record = read_tone_log,
                             .is_typed_first = true,
                             .step_hint = "\u201c3 dB, falling\u201d says what is added",
                             .plan = plan_run,
                             .log = attenuator_run,
                             .evaluate = evaluate_lock};
  return method;
}

}  // namespace heron
