#include "demo/demo_touch.h"

#include <cmath>
#include <numbers>
#include <random>

#include "core/method/method_table.h"
#include "core/method/touch/touch_events.h"
#include "core/quantity/levels.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/shaped_noise.h"
#include "store/capture_files.h"
#include "store/loaded.h"
#include "store/result_record.h"

namespace heron::demo {
namespace {

constexpr double kTouchedHz = 5760e6;
constexpr double kTouchedToneHz = 910.0;
constexpr double kTouchedRateHz = 8000.0;
constexpr double kTouchedS = 60.0;

/// A line that is there from one time to another.
struct Hum {
  double hz;
  double dbc;
  double from_s;
  double to_s;
};
/// What rings after a tap.
struct Ring {
  double hz;
  double dbc;  ///< when it begins
  double at_s;
  double tau_s;
};

const std::vector<Hum>& hums() {
  static const std::vector<Hum> all{{100.0, -54.3, 0.0, 46.5},  {200.0, -63.0, 0.0, 46.5},
                                    {300.0, -71.0, 0.0, 46.5},  {100.0, -40.3, 37.2, 43.0},
                                    {200.0, -52.0, 37.2, 43.0}, {300.0, -60.0, 37.2, 43.0},
                                    {400.0, -58.0, 37.2, 43.0}, {500.0, -63.0, 37.2, 43.0}};
  return all;
}

std::vector<Ring> rings() {
  std::vector<Ring> all;
  const double strength[4] = {-0.6, -2.4, 0.0, -1.3};
  for (int k = 0; k < 4; ++k) {
    all.push_back({845.0, -36.2 + strength[(k + 1) % 4], 9.3 + 1.2 * k, 0.14});
    all.push_back({312.0, -33.9 + 1.5 * strength[k], 16.4 + 1.2 * k, 0.22});
    all.push_back({625.0, -52.0 + 1.5 * strength[k], 16.4 + 1.2 * k, 0.16});
  }
  return all;
}

double index_of(double dbc) {
  return 2.0 * std::pow(10.0, dbc / 20.0);
}

CaptureOpener touched_carrier(const std::string& at) {
  const auto frames = static_cast<std::size_t>(kTouchedS * kTouchedRateHz);
  // Near the carrier, after the multiplier: the reference below, a plateau above.
  const auto density = [](double hz) {
    return 2.0 * (power_ratio_from_db(-84.0) + power_ratio_from_db(-34.0) / (hz * hz + 25.0));
  };
  const std::vector<float> phase = shaped_noise(frames, kTouchedRateHz, density, 5761);
  std::vector<double> turn(frames);
  for (std::size_t i = 0; i < frames; ++i) turn[i] = static_cast<double>(phase[i]);
  const auto add = [&](double hz, double from_s, double to_s, auto&& index) {
    const auto first = static_cast<std::size_t>(from_s * kTouchedRateHz);
    const auto last = std::min(frames, static_cast<std::size_t>(to_s * kTouchedRateHz));
    for (std::size_t i = first; i < last; ++i) {
      const double t = static_cast<double>(i) / kTouchedRateHz;
      turn[i] += index(t - from_s) * std::sin(2.0 * std::numbers::pi * hz * t);
    }
  };
  for (const Hum& h : hums()) add(h.hz, h.from_s, h.to_s, [&](double) { return index_of(h.dbc); });
  for (const Ring& r : rings())
    add(r.hz, r.at_s, r.at_s + 8.0 * r.tau_s,
        [&](double t) { return index_of(r.dbc) * std::exp(-t / r.tau_s); });
  std::vector<std::complex<float>> x(frames);
  std::mt19937_64 random(5762);
  NormalNumbers<double> normal(0.0, 1e-5);
  for (std::size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / kTouchedRateHz;
    // Warm hands and less voltage pull it a little.
    const double drift = -0.4 * std::sin(t / 21.0);
    x[i] =
        std::complex<float>(0.5 * std::polar(1.0, turn[i] + 2.0 * std::numbers::pi *
                                                                (kTouchedToneHz * t + drift))) +
        std::complex<float>(static_cast<float>(normal(random)), static_cast<float>(normal(random)));
  }
  CaptureInfo info;
  info.name = "case open.wav";
  info.center_hz = kTouchedHz - kTouchedToneHz;
  info.recorded_at = at;
  return memory_capture(std::move(x), kTouchedRateHz, info);
}

}  // namespace

void add_touch_test(Shack& shack, Id evaluation, const std::string& at) {
  const Method& method = *find_method("touch");
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = method.id;
  t.title = "Touch test";
  t.conditions = "1440 MHz times 4, 1 mA, case open";
  t.limit = Limit{"own wish", Sense::at_most, -50.0, "dB", "re carrier", 20.0};
  t.settings["touch"] = method.usual_settings();
  t.settings["touch"]["events"] = to_json(
      parse_touch_events("1-8 hands off, lid on\n9-14 tap the lid\n16-21.5 tap the crystal\n"
                         "24-30 hand on the lid\n37-43 supply 12 to 10.5 V\n48-59 on the battery"));
  const Id test = add_test(shack, t);
  const Id step = add_step(shack, test, "case open");
  const StoredCapture stored = store_capture(shack.captures_folder(), touched_carrier(at));
  const TakeContext context{t.settings, {}, std::nullopt, std::nullopt, std::nullopt};
  save_result(shack, attach_capture(shack, step, stored, {at, 0, std::nullopt}),
              std::string(method.record),
              method.analyse(capture_opener(capture_path(shack, stored.hash)), context, {}, {}));
  refresh_headline(shack, test);
}

}  // namespace heron::demo
