#include "core/method/spread/spread_method.h"

#include <cmath>

#include "core/method/spread/spread_analysis.h"
#include "core/method/spread/spread_result.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kNoiseLengthS = 8.0;
/// The peaks of noise are drawn anew each time.
constexpr double kOverNoiseDb = 2.0;

json analyse(const CaptureOpener& open, const TakeContext& context, const Progress& progress,
             const std::stop_token& stop) {
  return to_json(analyse_spread(open, spread_settings_from_json(context.settings), context.part,
                                progress, stop));
}

AnalysisPtr read_record(const json& record) {
  return std::make_shared<const SpreadAnalysis>(spread_from_json(record));
}

RunRecipe run_of(const Evidence& evidence) {
  const SpreadSettings s = spread_settings_from_json(evidence.settings);
  RunRecipe run;
  run.length_s = kNoiseLengthS;
  run.over_plan_db = kOverNoiseDb;
  run.band_hz = s.band_hz;
  run.notch_hz = s.notch_hz;
  run.stimulus = s.stimulus == SpreadStimulus::notched_noise ? RunRecipe::Stimulus::notched_noise
                                                             : RunRecipe::Stimulus::speech_noise;
  if (s.stimulus == SpreadStimulus::own_recording) {
    run.refusal = "A generator cannot play your own recording.";
    run.what_to_do = "Play it yourself at each step, and add what was recorded";
  }
  return run;
}

std::string check(const json& settings) {
  const SpreadSettings s = spread_settings_from_json(settings);
  if (s.notch_hz.first <= s.band_hz.first || s.notch_hz.second >= s.band_hz.second)
    return "The notch has to lie inside the band.";
  return {};
}

LimitField ratio_limit(const Evidence& evidence) {
  LimitField f;
  f.head = "A limit";
  f.unit = "dB";
  if (spread_settings_from_json(evidence.settings).stimulus == SpreadStimulus::notched_noise) {
    f.hint = "The noise power ratio has to be at least this.";
    f.label = "NPR, dB";
    f.example = "30";
    f.asked = Quantity::gain;
    f.sense = Sense::at_least;
    f.is_depth = true;
    f.convention = kNoisePowerRatio;
  } else {
    f.hint = "No more than this may fall into an adjacent channel.";
    f.label = "Adjacent-channel power, dB";
    f.example = "\u221235";
    f.asked = Quantity::limit;
    f.sense = Sense::at_most;
    f.convention = "re channel, " + hold_name(Hold::average);
  }
  return f;
}

LimitField width_limit(const Evidence&) {
  LimitField f;
  f.head = "Maximum width";
  f.hint = "99 % of the power has to lie within this width.";
  f.label = "Width";
  f.example = "2.8 kHz";
  f.asked = Quantity::frequency;
  f.unit = "Hz";
  f.sense = Sense::at_most;
  f.convention = hold_name(Hold::average);
  f.span = 200.0;
  f.span_share = 1.0 / 3.0;
  return f;
}

Method spread_method(std::string_view id, LimitField (*limit)(const Evidence&),
                     Result (*evaluate)(const Evidence&)) {
  using Kind = SettingField::Kind;
  const auto played = [](std::string_view key, std::string_view head) {
    return SettingField{.kind = Kind::range,
                        .key = key,
                        .head = head,
                        .hint =
                            "As it is played, in audio frequencies. It counts for recordings "
                            "added from now on."};
  };
  return {
      .id = id,
      .step_head = "Step",
      .step_example = "2.4 kHz, compressor off",
      .settings_key = "spread",
      .settings =
          {{.kind = Kind::choice,
            .key = "stimulus",
            .head = "Stimulus",
            .choices = {{"notched_noise", "Notched noise, for the noise power ratio"},
                        {"speech_noise", "Speech-shaped noise"},
                        {"own_recording", "A recording of your own\u2026", "own"}}},
           played("band_hz", "Band"),
           played("notch_hz", "Notch"),
           {.kind = Kind::quantity,
            .key = "channel_hz",
            .head = "Channel width",
            .hint = "The width of the channel and of each adjacent channel. Recordings made before "
                    "keep theirs until they are measured again.",
            .asked = Quantity::frequency,
            .unit = "Hz"},
           {.kind = Kind::choice,
            .key = "sideband",
            .head = "Sideband",
            .choices = {{"upper", "Upper sideband"}, {"lower", "Lower sideband"}}}},
      .usual_settings = [] { return with_spread_settings(json::object(), {}).at("spread"); },
      .setting_words =
          [](const Evidence& e) {
            return spread_stimulus_words(spread_settings_from_json(e.settings));
          },
      .check = check,
      .limit = limit,
      .record = "spread",
      .record_format = "even-heron-spread",
      .analyse = analyse,
      .read_record = read_record,
      .run = run_of,
      .evaluate = evaluate};
}

}  // namespace

const Method& noise_method() {
  static const Method method = [] {
    Method m = spread_method("noise", ratio_limit,
                             [](const Evidence& e) { return evaluate_spread(e, false); });
    m.beside = "two_tone";
    return m;
  }();
  return method;
}

const Method& bandwidth_method() {
  static const Method method = spread_method(
      "bandwidth", width_limit, [](const Evidence& e) { return evaluate_spread(e, true); });
  return method;
}

}  // namespace heron
