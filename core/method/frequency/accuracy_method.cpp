#include "core/method/frequency/accuracy_method.h"

#include "core/method/frequency/accuracy_result.h"
#include "core/method/frequency/accuracy_settings.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"

namespace heron {
namespace {

LimitField reference_tolerance(const Evidence&) {
  return ppm_limit_field(
      "Within",
      "How far the reference may be off, either way; as the maker says, or as your use needs.",
      "0.5 ppm");
}

nlohmann::json analyse_reference_tone(const CaptureOpener& open, const TakeContext&,
                                      const Progress& progress, const std::stop_token& stop) {
  return analyse_tone_log(open, std::nullopt, progress, stop);
}

}  // namespace

const Method& accuracy_method() {
  using Kind = TypedField::Kind;
  static const Method method{
      .id = "reference",
      .step_head = "Reading",
      .step_example = "test point, cover on",
      .fields = {{.kind = Kind::condition,
                  .quantity = kExpectedCondition,
                  .head = "Nominal",
                  .hint = "What it should be: nominal of the oscillator, or the true frequency of "
                          "the carrier",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "MHz",
                  .width = 124,
                  .csv = "nominal_hz"},
                 {.kind = Kind::condition,
                  .quantity = kDialCondition,
                  .head = "Dial",
                  .hint = "Where the dial stands",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "MHz",
                  .width = 124,
                  .csv = "dial_hz"},
                 counted_field(),
                 {.quantity = kToneReading,
                  .head = "Tone",
                  .hint = "Tone heard, by ear against a known one, or from the spectrum of the "
                          "audio",
                  .asked = Quantity::frequency,
                  .unit = "Hz",
                  .typed_unit = "Hz",
                  .width = 110,
                  .live = kHeardTone,
                  .csv = "tone_hz"}},
      .settings_key = kAccuracySettings,
      .settings = accuracy_setting_fields(),
      .usual_settings = usual_accuracy_settings,
      .setting_words = accuracy_way_words,
      .check = check_accuracy_settings,
      .bare_unit = accuracy_bare_unit,
      .limit = reference_tolerance,
      .caution =
          "A test point may lie beside mains or high voltage: one hand, insulated probe. Local "
          "codes and licensed practice come first.",
      .caution_head = "Before you probe",
      .record = "tone_log",
      .record_format = kToneLogFormat,
      .analyse = analyse_reference_tone,
      .read_record = read_tone_log,
      .is_typed_first = true,
      .step_hint = "USB or LSB in its name says the sideband",
      .evaluate = evaluate_accuracy};
  return method;
}

}  // namespace heron
