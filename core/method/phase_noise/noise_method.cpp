#include "core/method/phase_noise/noise_method.h"

#include "core/method/phase_noise/noise_capture.h"
#include "core/method/phase_noise/noise_record.h"
#include "core/method/phase_noise/noise_result.h"
#include "core/method/phase_noise/noise_settings.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/method/phase_noise/noise_table.h"
#include "core/method/phase_noise/noise_trace.h"

namespace heron {
namespace {

StepPlan plan_states(const Evidence& evidence) {
  return {"Plan before, after and the instrument\u2019s own noise",
          {"before", "after", "floor"},
          evidence.settings};
}

std::string noise_evidence_words(const Evidence& evidence) {
  std::size_t pieces = 0;
  for (const EvidenceStep& s : evidence.steps)
    if (dynamic_cast<const NoiseRecord*>(s.analysis.get()) != nullptr)
      pieces += 1 + s.repeats.size();
  const std::size_t typed = noise_plan(evidence).typed.size();
  if (pieces == 0 && typed == 0) return "none yet";
  std::string words;
  if (pieces > 0) words = std::to_string(pieces) + (pieces == 1 ? " recording" : " recordings");
  if (typed > 0) words += (words.empty() ? "" : ", ") + std::to_string(typed) + " points typed";
  return words;
}

/// What runs by itself is recorded for a minute, beside the recorder's own centre; a span that a
/// step names is swept over.
RunRecipe run_noise(const Evidence&) {
  RunRecipe run;
  run.stimulus = RunRecipe::Stimulus::nothing;
  run.length_s = 60.0;
  run.rate_hz = 48e3;
  run.aside_hz = 3.1e3;
  run.span_points = 2001;
  run.span_averages = 20;
  return run;
}

nlohmann::json take_noise(const CaptureOpener& open, const TakeContext&, const Progress& progress,
                          const std::stop_token& stop) {
  NoiseRecord record;
  record.curve = noise_of_capture(open, {kNoisePerDecade}, progress, stop);
  return to_json(record);
}

nlohmann::json take_noise_trace(const SpectrumTrace& trace, const TakeContext&) {
  NoiseRecord record;
  record.curve = noise_of_traces(std::vector{trace}, kNoisePerDecade);
  record.rbw_hz = trace.rbw_hz.value_or(0.0);
  return to_json(record);
}

nlohmann::json take_noise_table(const CsvTable& table, const TakeContext&) {
  if (!is_noise_table(table)) return nullptr;
  NoiseRecord record;
  record.curve = noise_of_table(table);
  return to_json(record);
}

}  // namespace

Method reads_noise(Method row) {
  row.caution =
      "A recorder\u2019s input stands milliwatts: pads first. With the case open, hands out before "
      "power; local codes come first.";
  row.caution_head = "Before you connect it";
  row.record = "phase_noise";
  row.record_format = kNoiseFormat;
  row.analyse = take_noise;
  row.analyse_trace = take_noise_trace;
  row.analyse_table = take_noise_table;
  row.read_record = read_noise_record;
  row.is_joint = true;
  row.evidence_words = noise_evidence_words;
  row.has_repeats = true;
  row.run = run_noise;
  return row;
}

const Method& phase_noise_method() {
  static const Method method = reads_noise(
      {.id = "phase_noise",
       .step_head = "State",
       .step_example = "after",
       .settings_key = kNoiseSettings,
       .settings = noise_setting_fields(),
       .usual_settings = usual_noise_settings,
       .setting_words = noise_setting_words,
       .check = check_noise_settings,
       .limit = noise_limit,
       .step_hint =
           "Its state; spans of one state: \u201cafter, 100 kHz\u201d. \u201cfloor\u201d is the "
           "instrument\u2019s own noise, \u201cyardstick\u201d a better source",
       .plan = plan_states,
       .evaluate = evaluate_noise});
  return method;
}

}  // namespace heron
