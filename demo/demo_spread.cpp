#include "demo/demo_spread.h"

#include <cmath>
#include <fmt/format.h>

#include "core/method/spread/spread_analysis.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "simbench/transmitter.h"
#include "store/capture_files.h"
#include "store/loaded.h"
#include "store/result_record.h"

namespace heron::demo {
namespace {

constexpr double kDialHz = 14.2e6;
constexpr double kSpreadRateHz = 48000.0;
constexpr std::size_t kSpreadFrames = 8U * std::size_t{48000};
constexpr double kFullScaleW = 120.0;

struct SpreadStep {
  std::string label;
  double watts = 0.0;
  sim::TransmitterSettings settings;
  double audio_dbm = -22.0;
};

/// What the simulated transmitter sends at its front panel's settings, as a recording.
CaptureOpener record_spread(const SpreadStep& step, sim::AudioSignal::Kind kind,
                            const std::string& at, std::uint64_t seed) {
  sim::Transmitter device(sim::TransmitterDesign{});
  device.settings = step.settings;
  device.settings.power_w = step.watts;
  device.settings.dial_hz = kDialHz;
  device.audio.kind = kind;
  device.audio.pep_dbm = step.audio_dbm;
  device.live(1.0);
  std::mt19937_64 random(seed);
  std::vector<std::complex<float>> x(kSpreadFrames);
  device.output(kDialHz, kSpreadRateHz, 1.0, x, random);
  const auto scale = static_cast<float>(1.0 / std::sqrt(kFullScaleW));
  NormalNumbers<float> noise(0.0F, 3e-5F);
  for (auto& v : x) v = scale * v + std::complex<float>(noise(random), noise(random));
  CaptureInfo info;
  info.name = step.label + ".wav";
  info.center_hz = kDialHz;
  info.recorded_at = at;
  return memory_capture(std::move(x), kSpreadRateHz, info);
}

Id add_spread(Shack& shack, Test t, const SpreadSettings& settings, Id hookup,
              const std::vector<SpreadStep>& steps, const std::string& taken_at,
              std::uint64_t seed) {
  t.hookup_id = hookup;
  t.drive = Drive{to_dbm(Watt{30.0}).value, false, kDialHz, 10.0};
  t.settings = with_spread_settings(nlohmann::json::object(), settings);
  const Id test = add_test(shack, t);
  const Id version = latest_version(shack, hookup).id;
  for (const SpreadStep& s : steps) {
    const Id step = add_step(shack, test, s.label);
    const auto kind = settings.stimulus == SpreadStimulus::notched_noise
                          ? sim::AudioSignal::Kind::notched_noise
                          : sim::AudioSignal::Kind::speech_noise;
    const StoredCapture stored =
        store_capture(shack.captures_folder(), record_spread(s, kind, taken_at, seed++));
    const Id attached = attach_capture(shack, step, stored, {taken_at, version, std::nullopt});
    save_result(
        shack, attached, "spread",
        to_json(analyse_spread(capture_opener(capture_path(shack, stored.hash)), settings)));
  }
  refresh_headline(shack, test);
  return test;
}

}  // namespace

Id add_noise(Shack& shack, Id evaluation, Id hookup, const std::string& taken_at) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "noise";
  t.title = "Notched noise";
  t.conditions = "14.200 MHz, 13.8 V, bias 320 mA";
  t.limit = Limit{"own limit", Sense::at_least, 30.0, "dB", kNoisePowerRatio, 20.0};
  std::vector<SpreadStep> steps;
  for (const auto& [watts, audio] :
       {std::pair{30.0, -15.0}, {20.0, -17.0}, {10.0, -20.0}, {5.0, -23.0}})
    steps.push_back({fmt::format("{:g} W", watts), watts, {}, audio});
  return add_spread(shack, t, {}, hookup, steps, taken_at, 2100);
}

Id add_bandwidth(Shack& shack, Id evaluation, Id hookup, const std::string& taken_at) {
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "bandwidth";
  t.title = "Occupied bandwidth";
  t.conditions = "14.200 MHz, 20 W, speech-shaped noise";
  t.limit = Limit{"own limit", Sense::at_most, 2800.0, "Hz", hold_name(Hold::average), 1000.0};
  SpreadSettings settings;
  settings.stimulus = SpreadStimulus::speech_noise;
  std::vector<SpreadStep> steps;
  for (const double high : {1800.0, 2100.0, 2400.0}) {
    for (const bool compressor : {false, true}) {
      sim::TransmitterSettings s;
      s.filter.high_hz = high;
      s.is_compressor_on = compressor;
      steps.push_back({fmt::format("{:g} kHz{}", high / 1e3, compressor ? ", compressed" : ""),
                       20.0, s, -18.0});
    }
  }
  return add_spread(shack, t, settings, hookup, steps, taken_at, 2200);
}

}  // namespace heron::demo
