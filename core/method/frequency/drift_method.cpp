#include "core/method/frequency/drift_method.h"

#include "core/method/frequency/drift_result.h"
#include "core/method/frequency/drift_settings.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/log_evidence.h"
#include "core/method/frequency/tone_log.h"

namespace heron {
namespace {

LimitField drift_tolerance(const Evidence&) {
  return ppm_limit_field("Within, once settled",
                         "How far off it may be when it has settled, either way.", "0.5 ppm");
}

nlohmann::json analyse_drift_tone(const CaptureOpener& open, const TakeContext& context,
                                  const Progress& progress, const std::stop_token& stop) {
  Evidence evidence;
  evidence.settings = context.settings;
  return analyse_tone_log(open, drift_plan(evidence).reference.tone_hz, progress, stop);
}

LogRecipe log_of_drift(const Evidence& evidence) {
  const DriftPlan plan = drift_plan(evidence);
  return frequency_log_recipe(plan.reference, plan.every_s, plan.length_s);
}

}  // namespace

const Method& drift_method() {
  static const Method method{.id = "drift",
                             .step_head = "Reading or log",
                             .step_example = "cold start, cover on",
                             .fields = drift_fields(),
                             .settings_key = kDriftSettings,
                             .settings = drift_setting_fields(),
                             .usual_settings = usual_drift_settings,
                             .setting_words = drift_setting_words,
                             .check = check_drift_settings,
                             .bare_unit = drift_bare_unit,
                             .limit = drift_tolerance,
                             .record = "tone_log",
                             .record_format = kToneLogFormat,
                             .analyse = analyse_drift_tone,
                             .read_record = read_tone_log,
                             .is_joint = true,
                             .evidence_words = logged_words,
                             .step_hint = "What this log or reading is of",
                             .compares_tests = true,
                             .read_log =
                                 [](const CsvTable& table, const Evidence& evidence) {
                                   return series_of_log(table,
                                                        drift_plan(evidence).reference.nominal_hz);
                                 },
                             .log = log_of_drift,
                             .evaluate = evaluate_drift};
  return method;
}

}  // namespace heron
