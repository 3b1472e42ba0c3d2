#include "core/method/frequency/stability_method.h"

#include "core/method/frequency/drift_method.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/log_evidence.h"
#include "core/method/frequency/stability_result.h"
#include "core/method/frequency/stability_settings.h"
#include "core/method/frequency/tone_log.h"

namespace heron {
namespace {

LimitField most_scatter(const Evidence&) {
  return ppm_limit_field("Scatter at most",
                         "Over the averaging times that are chosen among the settings.", "1 ppb",
                         Sense::at_most);
}

nlohmann::json analyse_stability_tone(const CaptureOpener& open, const TakeContext& context,
                                      const Progress& progress, const std::stop_token& stop) {
  Evidence evidence;
  evidence.settings = context.settings;
  return analyse_tone_log(open, stability_plan(evidence).reference.tone_hz, progress, stop);
}

LogRecipe log_of_stability(const Evidence& evidence) {
  const StabilityPlan plan = stability_plan(evidence);
  return frequency_log_recipe(plan.reference, plan.every_s, plan.length_s);
}

}  // namespace

const Method& stability_method() {
  static const Method method{.id = "stability",
                             .step_head = "Log",
                             .step_example = "10 MHz out, an hour",
                             .settings_key = kStabilitySettings,
                             .settings = stability_setting_fields(),
                             .usual_settings = usual_stability_settings,
                             .setting_words = stability_setting_words,
                             .check = check_stability_settings,
                             .limit = most_scatter,
                             .companion = drift_method().id,
                             .record = "tone_log",
                             .record_format = kToneLogFormat,
                             .analyse = analyse_stability_tone,
                             .read_record = read_tone_log,
                             .is_joint = true,
                             .evidence_words = logged_words,
                             .read_log =
                                 [](const CsvTable& table, const Evidence& evidence) {
                                   return series_of_log(
                                       table, stability_plan(evidence).reference.nominal_hz);
                                 },
                             .log = log_of_stability,
                             .evaluate = evaluate_stability};
  return method;
}

}  // namespace heron
