#include "core/method/frequency/tone_sidebands.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numeric>
#include <vector>

#include "core/quantity/levels.h"
#include "core/signal/median.h"
#include "core/signal/welch.h"

namespace heron {
namespace {

constexpr double kWithinHz = 300.0;
constexpr double kSidebandOverDb = 10.0;
constexpr double kLeastS = 2.0;
constexpr std::ptrdiff_t kLobe = 4;  // of the window, bins to each side

double line_power(const std::vector<float>& power, std::ptrdiff_t at) {
  const std::ptrdiff_t from = std::max<std::ptrdiff_t>(0, at - kLobe);
  const auto to = std::min(static_cast<std::ptrdiff_t>(power.size()), at + kLobe + 1);
  return std::accumulate(power.begin() + from, power.begin() + to, 0.0);
}

}  // namespace

std::optional<ToneSideband> strongest_sideband(const CaptureOpener& open, double tone_hz,
                                               const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  if (info.duration_s() < kLeastS) return std::nullopt;
  WelchSettings settings;
  settings.segment = std::bit_floor(static_cast<std::size_t>(
      std::min(info.sample_rate_hz * kLeastS, static_cast<double>(info.frames))));
  settings.slices = 1;
  const Spectrum s = welch_spectrum(open, settings, {}, stop);
  const auto bins = static_cast<std::ptrdiff_t>(s.power.size());
  const auto tone = static_cast<std::ptrdiff_t>(std::lround(s.position(tone_hz)));
  const auto reach = static_cast<std::ptrdiff_t>(kWithinHz / s.bin_hz());
  if (tone < 0 || tone >= bins) return std::nullopt;
  std::vector<float> round_it;
  std::ptrdiff_t best = -1;
  for (std::ptrdiff_t i = std::max<std::ptrdiff_t>(0, tone - reach);
       i < std::min(bins, tone + reach + 1); ++i) {
    if (std::abs(i - tone) <= 2 * kLobe) continue;
    // The recorder's own centre is no sideband.
    if (std::abs(s.frequency_hz(static_cast<std::size_t>(i))) <=
        static_cast<double>(kLobe) * s.bin_hz())
      continue;
    const float p = s.power[static_cast<std::size_t>(i)];
    round_it.push_back(p);
    if (best < 0 || p > s.power[static_cast<std::size_t>(best)]) best = i;
  }
  if (best < 0) return std::nullopt;
  const double middle = median_of(round_it);
  if (s.power[static_cast<std::size_t>(best)] < middle * power_ratio_from_db(kSidebandOverDb))
    return std::nullopt;
  const double ratio = line_power(s.power, best) / std::max(line_power(s.power, tone), 1e-30);
  return ToneSideband{db_from_power_ratio(std::max(ratio, 1e-30)),
                      static_cast<double>(best - tone) * s.bin_hz()};
}

}  // namespace heron
