#include "core/method/touch/touch_method.h"

#include "core/method/touch/touch_capture.h"
#include "core/method/touch/touch_result.h"
#include "core/method/touch/touch_settings.h"
#include "core/method/touch/touch_trace.h"

namespace heron {
namespace {

std::string touch_evidence_words(const Evidence& evidence) {
  const std::size_t events = touch_plan(evidence).events.size();
  const bool is_recorded =
      std::any_of(evidence.steps.begin(), evidence.steps.end(), [](const EvidenceStep& s) {
        return dynamic_cast<const TouchRecord*>(s.analysis.get()) != nullptr;
      });
  if (!is_recorded && events == 0) return "none yet";
  return std::string(is_recorded ? "recorded" : "not recorded") + ", " + std::to_string(events) +
         (events == 1 ? " event" : " events");
}

RunRecipe run_touch(const Evidence&) {
  RunRecipe run;
  run.stimulus = RunRecipe::Stimulus::nothing;
  run.length_s = 60.0;
  run.rate_hz = 48e3;
  run.aside_hz = 3.1e3;
  return run;
}

}  // namespace

const Method& touch_method() {
  static const Method method{
      .id = "touch",
      .step_head = "Recording",
      .step_example = "case open, on the bench supply",
      .first_step = "case open",
      .settings_key = kTouchSettings,
      .settings = touch_setting_fields(),
      .usual_settings = usual_touch_settings,
      .setting_words = touch_setting_words,
      .check = check_touch_settings,
      .limit = touch_limit,
      .caution =
          "With the case open live parts are in reach: hands out before power goes on, and "
          "touch only the lid and insulated parts. A recorder\u2019s input stands "
          "milliwatts. Local codes come first.",
      .caution_head = "Before you touch it",
      .record = "touch",
      .record_format = kTouchFormat,
      .analyse =
          [](const CaptureOpener& open, const TakeContext&, const Progress& progress,
             const std::stop_token& stop) {
            return to_json(touch_of_capture(open, progress, stop));
          },
      .analyse_trace = [](const SpectrumTrace& trace, const TakeContext&) -> nlohmann::json {
        return to_json(touch_of_trace(trace));
      },
      .read_record = read_touch_record,
      .is_joint = true,
      .evidence_words = touch_evidence_words,
      .step_hint = "What was recorded; what was touched stands in the table",
      .cell_typed = touch_typed,
      .event_noted = touch_noted,
      .run = run_touch,
      .evaluate = evaluate_touch};
  return method;
}

}  // namespace heron
