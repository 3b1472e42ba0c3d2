#include "core/method/receiver/sensitivity_method.h"

#include "core/method/receiver/listen_run.h"
#include "core/method/receiver/receiver_audio.h"
#include "core/method/receiver/sensitivity_result.h"
#include "core/method/receiver/sensitivity_settings.h"

namespace heron {
namespace {

std::string heard_words(const Evidence& evidence) {
  std::size_t recordings = 0;
  std::size_t typed = 0;
  for (const EvidenceStep& s : evidence.steps) {
    if (dynamic_cast<const ReceiverAudio*>(s.analysis.get()) != nullptr) ++recordings;
    if (!s.readings.empty()) ++typed;
  }
  if (recordings == 0 && typed == 0) return "none yet";
  std::string words;
  if (typed > 0) words = std::to_string(typed) + (typed == 1 ? " band typed" : " bands typed");
  if (recordings > 0)
    words += (words.empty() ? "" : ", ") + std::to_string(recordings) +
             (recordings == 1 ? " recording" : " recordings");
  return words;
}

}  // namespace

const Method& sensitivity_method() {
  static const Method method{
      .id = "sensitivity",
      .step_head = "Band",
      .step_example = "14.2 MHz",
      .fields = sensitivity_fields(),
      .settings_key = kSensitivitySettings,
      .settings = sensitivity_setting_fields(),
      .usual_settings = usual_sensitivity_settings,
      .setting_words = sensitivity_setting_words,
      .check = check_sensitivity_settings,
      .bare_unit = bare_receiver_unit,
      .limit = sensitivity_limit,
      .caution =
          "A transmitter keyed into a generator destroys it: disable transmit first. Old sets "
          "hold mains and high voltage inside: work on them closed, or leave it to who is "
          "licensed. Local codes come first.",
      .caution_head = "Before you connect it",
      .record = "receiver_audio",
      .record_format = kReceiverAudioFormat,
      .analyse = [](const CaptureOpener& open, const TakeContext&, const Progress& progress,
                    const std::stop_token& stop) -> nlohmann::json {
        return to_json(receiver_audio(open, progress, stop));
      },
      .read_record = read_receiver_audio,
      .is_joint = true,
      .is_typed_first = true,
      .evidence_words = heard_words,
      .step_hint =
          "The band by its frequency; \u201c14.2 MHz, noise\u201d is a recording without "
          "the signal, \u201c14.2 MHz, after\u201d the same band once more",
      .plan = plan_receiver_bands,
      .run = listen_run,
      .evaluate = evaluate_sensitivity};
  return method;
}

}  // namespace heron
