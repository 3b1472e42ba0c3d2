#include "core/method/purity/purity_method.h"

#include <algorithm>
#include <cmath>

#include "core/method/purity/purity_json.h"
#include "core/method/purity/purity_result.h"
#include "core/method/purity/purity_settings.h"
#include "core/method/purity/purity_take.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kCarrierDistanceHz =
    1000.0;  // so far above the suppressed carrier stands the carrier
constexpr int kPlannedHarmonics = 7;
constexpr double kWideRateHz = 250e3;
constexpr double kWideLengthS = 1.05;

std::string carrier_words(const Evidence& e) {
  const PurityTestSettings s = purity_settings_from_json(e.settings);
  return engineering_text(purity_carrier_hz(e.settings, e.drive), "Hz", 6) +
         (s.power_dbm ? ", " + s.power_typed : "");
}

std::string evidence_words(const Evidence& e) {
  const auto taken = std::count_if(e.steps.begin(), e.steps.end(),
                                   [](const EvidenceStep& s) { return s.analysis; });
  const bool is_self_tested =
      std::any_of(e.steps.begin(), e.steps.end(),
                  [](const EvidenceStep& s) { return s.second_take.has_value(); });
  const std::size_t typed = purity_settings_from_json(e.settings).lines.size();
  std::string words;
  const auto add = [&](const std::string& more) { words += (words.empty() ? "" : ", ") + more; };
  if (taken > 0) add(std::to_string(taken) + (taken == 1 ? " recording" : " recordings"));
  if (typed > 0) add(std::to_string(typed) + " typed");
  if (is_self_tested) add("self-tested");
  return words.empty() ? "nothing yet" : words;
}

/// The settings of a test whose carrier is a tone beside the planned frequency.
json with_tone(const Evidence& e) {
  PurityTestSettings s = purity_settings_from_json(e.settings);
  s.carrier_hz = e.drive->frequency_hz + kCarrierDistanceHz;
  return with_purity_settings(e.settings, s);
}

StepPlan plan_harmonics(const Evidence& e) {
  StepPlan plan;
  plan.words = "Plan the carrier and harmonics 2 to " + std::to_string(kPlannedHarmonics);
  if (!e.drive) return plan;
  for (int n = 1; n <= kPlannedHarmonics; ++n)
    plan.steps.push_back(frequency_text(n * e.drive->frequency_hz));
  plan.settings = with_tone(e);
  return plan;
}

RunRecipe run_purity(const Evidence& e) {
  RunRecipe run;
  // One tone: what comes out is a carrier beside the suppressed one.
  run.stimulus = RunRecipe::Stimulus::tone;
  run.length_s = kWideLengthS;
  run.rate_hz = kWideRateHz;
  run.is_over_places = true;
  if (!e.drive) return run;
  const double dial = e.drive->frequency_hz;
  run.tone_hz = std::abs(purity_carrier_hz(e.settings, e.drive) - dial);
  run.sweep_hz = {std::max(1e5, std::floor(dial / 10.0 / 1e5) * 1e5),
                  dial * (kPlannedHarmonics + 0.5)};
  if (purity_settings_from_json(e.settings).carrier_hz == 0.0) run.settings = with_tone(e);
  if (run.tone_hz < kLeastToneHz || run.tone_hz > kMostToneHz) {
    run.refusal = "The carrier is not where a tone would put it.";
    run.what_to_do = "Set it 100 Hz to 5 kHz beside the planned frequency, under Carrier";
  }
  return run;
}

std::string check_purity(const json& settings) {
  purity_settings_from_json(settings);
  return {};
}

std::vector<SettingField> setting_fields() {
  using Kind = SettingField::Kind;
  return {
      {.kind = Kind::quantity,
       .key = "carrier_hz",
       .head = "Carrier",
       .hint = "Its frequency, to 50 ppm: everything is relative to it, and harmonics are its "
               "multiples.",
       .asked = Quantity::frequency,
       .unit = "Hz",
       .none = "As planned",
       .example = "14.2 MHz"},
      {.kind = Kind::quantity,
       .key = "power_dbm",
       .head = "Power of the carrier",
       .hint = "At the device, from a power meter: masks by power and levels in dBm hang on it.",
       .asked = Quantity::level,
       .unit = "dBm",
       .typed_unit = "W",
       .typed_key = "power_typed",
       .none = "Power as the recording says",
       .example = "30 W"},
      {.kind = Kind::text,
       .key = "lines",
       .head = "Lines read off a screen",
       .hint = "A line each: frequency and level, in dBc or in dBm at the instrument. "
               "\u201c<\u201d for one that the noise hides; \u201c1 to 150 MHz < -65 dBc\u201d "
               "for a range with nothing else in it.",
       .text = {
           .parse = [](const std::string& text) { return to_json(parse_typed_lines(text)); },
           .written =
               [](const json& kept) {
                 std::string text;
                 for (const TypedLine& l : typed_lines_from_json(kept)) text += l.typed + "\n";
                 return text;
               },
           .understood =
               [](const json& kept) { return typed_lines_words(typed_lines_from_json(kept)); }},
       .is_evidence = true},
      {.kind = Kind::flag,
       .key = "same_gain",
       .head = "All were recorded at one gain setting",
       // Without a full scale only this says what a recording beside the carrier's is
       // relative to.
       .hint = "Recordings without the carrier are relative to that of the others.",
       .is_evidence = true}};
}

}  // namespace

const Method& purity_method() {
  static const Method method{
      .id = "purity",
      .step_head = "Where it was recorded",
      .step_example = "28.4 MHz",
      .settings_key = "purity",
      .settings = setting_fields(),
      .usual_settings =
          [] {
            return json{{"carrier_hz", nullptr},
                        {"power_dbm", nullptr},
                        {"lines", json::array()},
                        {"same_gain", false}};
          },
      .setting_words = carrier_words,
      .check = check_purity,
      .mask = purity_mask,
      .record = "purity",
      .record_format = "even-heron-purity-source",
      .analyse =
          [](const CaptureOpener& open, const TakeContext& context, const Progress& progress,
             const std::stop_token& stop) {
            return to_json(take_purity(open, context, progress, stop));
          },
      .analyse_trace =
          [](const SpectrumTrace& trace, const TakeContext& context) {
            return to_json(take_purity(trace, context));
          },
      .read_record = [](const json& record) -> AnalysisPtr {
        return std::make_shared<const PurityTake>(purity_source_from_json(record));
      },
      .is_joint = true,
      .evidence_words = evidence_words,
      .step_hint = "A frequency in the name is used as the centre of recordings that do not say.",
      .self_test_hint =
          "The same place once more with more attenuation before the instrument. A line of the "
          "device falls by as much, a line that the instrument makes by more.",
      .plan = plan_harmonics,
      .run = run_purity,
      .evaluate = evaluate_purity};
  return method;
}

}  // namespace heron
