#include "demo/demo_purity.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "core/chain/chain.h"
#include "core/method/purity/purity_json.h"
#include "core/method/purity/purity_settings.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "store/capture_files.h"
#include "store/loaded.h"
#include "store/result_record.h"

namespace heron::demo {
namespace {

constexpr double kCarrierHz = 14.2e6;
constexpr double kRateHz = 250e3;
constexpr std::size_t kFrames = 1U << 17U;
/// Aside of the sampler's own centre.
constexpr double kAsideHz = 31e3;

struct InventedLine {
  double frequency_hz;
  double dbc;
};

CaptureOpener record_place(const std::vector<InventedLine>& lines, double center_hz,
                           double carrier_dbm, const Chain& chain, double full_scale_dbm,
                           const std::string& at, std::uint64_t seed) {
  std::mt19937_64 random(seed);
  NormalNumbers<float> noise(0.0F, std::pow(10.0F, -82.0F / 20.0F));
  std::vector<std::complex<float>> x(kFrames);
  for (auto& v : x) v = {noise(random), noise(random)};
  for (const InventedLine& line : lines) {
    const double offset = line.frequency_hz - center_hz;
    if (std::abs(offset) > 0.45 * kRateHz) continue;
    const double dbfs =
        carrier_dbm + line.dbc + total_gain_db(chain, line.frequency_hz) - full_scale_dbm;
    const double amplitude = std::pow(10.0, dbfs / 20.0);
    for (std::size_t i = 0; i < kFrames; ++i) {
      const double phase =
          2.0 * std::numbers::pi * std::fmod(offset * static_cast<double>(i) / kRateHz, 1.0);
      x[i] += std::complex<float>(static_cast<float>(amplitude * std::cos(phase)),
                                  static_cast<float>(amplitude * std::sin(phase)));
    }
  }
  CaptureInfo info;
  info.name = frequency_text(center_hz - kAsideHz) + ".wav";
  info.center_hz = center_hz;
  info.recorded_at = at;
  return memory_capture(std::move(x), kRateHz, info);
}

Mask club_mask() {
  Mask mask;
  mask.name = "Marsh club mask";
  mask.segments = {{1e6, 12e6, false, -43.0, {}, {}},
                   {18e6, 30e6, false, -43.0, {}, {}},
                   {30e6, 60e6, false, -50.0, {}, {}},
                   {60e6, 1e9, false, -60.0, {}, {}}};
  return mask;
}

}  // namespace

Id add_purity(Shack& shack, Id evaluation, Id hookup, double watts, const std::string& taken_at) {
  const std::vector<InventedLine> lines{{kCarrierHz, 0.0},       {22.9e6, -64.9},
                                        {2 * kCarrierHz, -41.2}, {3 * kCarrierHz, -54.7},
                                        {4 * kCarrierHz, -60.6}, {5 * kCarrierHz, -60.7},
                                        {6 * kCarrierHz, -69.6}, {7 * kCarrierHz, -66.6}};
  Test t;
  t.evaluation_id = evaluation;
  t.characteristic = "purity";
  t.title = "Harmonics and spurs";
  t.conditions = "14.200 MHz, 13.8 V, one tone";
  t.hookup_id = hookup;
  const double carrier_dbm = to_dbm(Watt{watts}).value;
  t.drive = Drive{carrier_dbm, false, kCarrierHz, 8.0};
  PurityTestSettings settings;
  settings.mask = club_mask();
  t.settings = with_purity_settings(nlohmann::json::object(), settings);
  const Id test = add_test(shack, t);
  const HookupVersion on = latest_version(shack, hookup);
  const double full_scale = recorder_of(on.chain)->full_scale_dbm.value_or(0.0);
  std::vector<double> places;
  for (const InventedLine& line : lines) places.push_back(line.frequency_hz);
  places.push_back(8 * kCarrierHz);
  std::sort(places.begin(), places.end());
  std::uint64_t seed = 1400;
  for (const double hz : places) {
    const Id step = add_step(shack, test, frequency_text(hz));
    const StoredCapture stored = store_capture(
        shack.captures_folder(),
        record_place(lines, hz + kAsideHz, carrier_dbm, on.chain, full_scale, taken_at, seed++));
    const Id attached = attach_capture(shack, step, stored, {taken_at, on.id, std::nullopt});
    PurityReadingSettings reading;
    reading.carrier_hz = kCarrierHz;
    reading.center_hz = hz + kAsideHz;
    save_result(shack, attached, "purity",
                to_json(read_purity(capture_opener(capture_path(shack, stored.hash)), reading)));
  }
  refresh_headline(shack, test);
  return test;
}

}  // namespace heron::demo
