#include "core/method/two_tone/two_tone_method.h"

#include <cmath>

#include "core/method/two_tone/two_tone_json.h"
#include "core/method/two_tone/two_tone_result.h"
#include "core/method/two_tone/two_tone_take.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/method/usual_meter.h"
#include "core/quantity/in_watts.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kLengthS = 4.0;
constexpr double kRateHz = 48000.0;

json analyse_recorded(const CaptureOpener& open, const TakeContext& context,
                      const Progress& progress, const std::stop_token& stop) {
  TwoToneSettings how = analysis_settings_of(context.settings);
  if (context.full_scale_dbm) how.full_scale_dbm = context.full_scale_dbm;
  how.part = context.part;
  return to_json(analyse_two_tone(open, how, progress, stop));
}

json analyse_swept(const SpectrumTrace& trace, const TakeContext& context) {
  const TwoToneSettings settings = analysis_settings_of(context.settings);
  TraceSettings how;
  how.highest_order = settings.highest_order;
  how.linearity_u_db = settings.linearity_u_db;
  if (context.drive && context.drive->frequency_hz >= trace.frequency_hz.front() &&
      context.drive->frequency_hz <= trace.frequency_hz.back())
    how.carrier_hz = context.drive->frequency_hz;
  return to_json(analyse_trace(trace, how));
}

/// A recording that does not know its radio frequency is referred at the planned one.
json pinned(const json& record, const Drive& drive) {
  TwoToneAnalysis a = two_tone_from_json(record);
  if (a.capture.center_hz) return {};
  a.capture.center_hz = center_of(a, drive);
  return a.capture.center_hz ? to_json(a) : json();
}

RunRecipe run_ladder(const Evidence& e) {
  RunRecipe run;
  run.stimulus = RunRecipe::Stimulus::two_tones;
  run.length_s = kLengthS;
  run.rate_hz = kRateHz;
  run.is_over_drives = true;
  const TwoToneSettings s = analysis_settings_of(e.settings);
  if (s.tones_hz)
    run.tones_hz = std::pair(std::abs(s.tones_hz->first - s.carrier_hz),
                             std::abs(s.tones_hz->second - s.carrier_hz));
  run.most_output_dbm = ladder_settings_from_json(e.settings).ceiling_dbm;
  return run;
}

LimitField limit_field(const Evidence& e) {
  LimitField f;
  f.convention = e.convention == kReOneTone ? kReOneTone : kRePep;
  f.head = "Another limit";
  f.hint = "No product may be higher than this, " + f.convention + ".";
  f.label = "Limit, dB " + f.convention;
  f.example = "\u221230";
  f.asked = Quantity::limit;
  f.unit = "dB";
  f.sense = Sense::at_most;
  f.usual = {Limit{"common practice", Sense::at_most, -36.0, "dB", kRePep, 20.0}};
  return f;
}

Reading read_product(const TypedField& field, const std::string& typed,
                     const std::string& convention) {
  const int order = std::stoi(std::string(field.quantity.substr(2)));
  return to_reading(parse_product(typed, order, convention == kReOneTone ? kReOneTone : kRePep));
}

TypedField product_field(std::string_view quantity, std::string_view head) {
  return {.quantity = quantity,
          .head = head,
          .hint = "Below the reference chosen above; < where only the floor was seen",
          .asked = Quantity::limit,
          .unit = "dB",
          .width = 92,
          .read = read_product};
}

std::vector<SettingField> ladder_fields() {
  using Kind = SettingField::Kind;
  return {{.kind = Kind::quantity,
           .key = "ceiling_dbm",
           .head = "Ceiling",
           .hint = "The most output that may be used, by your licence or by choice, peak envelope.",
           .asked = Quantity::level,
           .unit = "dBm",
           .typed_unit = "W",
           .typed_key = "ceiling_typed",
           .none = "No ceiling",
           .example = "25 W",
           .is_two_tone = true,
           .view = "Over power"},
          {.kind = Kind::quantity,
           .key = "linearity_db",
           .head = "How good is the recorder?",
           .hint = "Linearity of its level scale between two lines, as a 95 % interval. It enters "
                   "every figure.",
           .asked = Quantity::uncertainty,
           .unit = "dB",
           .typed_key = "linearity_typed",
           .none = "Recorder as stated on the bench",
           .example = "0.7 dB",
           .is_evidence = true}};
}

std::string ceiling_words(const Evidence& e) {
  const auto ceiling = ladder_settings_from_json(e.settings).ceiling_dbm;
  return ceiling ? watts_text(*ceiling) : "none";
}

}  // namespace

const Method& two_tone_method() {
  static const Method method{
      .id = "two_tone",
      .step_head = "Drive step",
      .step_example = "10 W",
      .first_step = "full power",
      .fields = {{.quantity = "output",
                  .head = "Output, PEP",
                  .hint = "Peak envelope power at the device: all attenuation counted in",
                  .unit = "dBm",
                  .typed_unit = "W",
                  .convention = "PEP",
                  .u = kPowerMeterU,
                  .width = 110,
                  .is_two_tone = true},
                 product_field("im3", "IM3, dB"),
                 product_field("im5", "IM5, dB"),
                 product_field("im7", "IM7, dB"),
                 product_field("im9", "IM9, dB")},
      .settings_key = "ladder",
      .settings = ladder_fields(),
      .usual_settings = [] { return json{{"ceiling_dbm", nullptr}, {"linearity_db", nullptr}}; },
      .renewed_settings = renewed_two_tone_settings,
      .setting_words = ceiling_words,
      .check =
          [](const json& settings) {
            analysis_settings_of(settings);
            return std::string();
          },
      .limit = limit_field,
      .conventions = {{kReOneTone, "one tone"}, {kRePep, "PEP"}},
      .record = "two_tone",
      .record_format = "even-heron-two-tone",
      .analyse = analyse_recorded,
      .analyse_trace = analyse_swept,
      .read_record = [](const json& record) -> AnalysisPtr {
        return std::make_shared<const TwoToneRecord>(two_tone_from_json(record));
      },
      .pinned = pinned,
      .step_hint = "What it is driven with, such as 10 W.",
      .self_test_hint =
          "The same step again with more attenuation before the recorder. What the device makes "
          "keeps its level relative to the tones; what the recorder makes falls.",
      .has_repeats = true,
      .has_live_view = true,
      .driven_view = "Over power",
      .for_output = ceiling_for,
      .linear_output = linear_output_of_two_tone,
      .run = run_ladder,
      .evaluate = evaluate_two_tone};
  return method;
}

}  // namespace heron
