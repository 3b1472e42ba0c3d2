#include "core/method/measure/tone_finder.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kRounding = 1e-12;  ///< of the strongest line

/// Floor per bin: medians of blocks, interpolated.
std::vector<float> floor_curve(const Spectrum& s) {
  const std::size_t bins = s.power.size();
  const std::size_t block = std::clamp<std::size_t>(bins / 64, 64, 1024);
  std::vector<float> medians;
  std::vector<float> part;
  const double correction = median_over_mean(s.statistics.k_eff);
  for (std::size_t at = 0; at < bins; at += block) {
    part.assign(s.power.begin() + static_cast<std::ptrdiff_t>(at),
                s.power.begin() + static_cast<std::ptrdiff_t>(std::min(bins, at + block)));
    medians.push_back(static_cast<float>(median_of(part) / correction));
  }
  std::vector<float> floor(bins);
  for (std::size_t k = 0; k < bins; ++k) {
    const double x = std::clamp((static_cast<double>(k) + 0.5) / static_cast<double>(block) - 0.5,
                                0.0, static_cast<double>(medians.size() - 1));
    const auto i = static_cast<std::size_t>(x);
    const auto j = std::min(i + 1, medians.size() - 1);
    const auto part_of = static_cast<float>(x - static_cast<double>(i));
    floor[k] = medians[i] * (1.0F - part_of) + medians[j] * part_of;
  }
  return floor;
}

/// Over the floor; few averages scatter more than 10 dB allows for.
double peak_threshold(const Spectrum& s) {
  return 10.0 * (1.0 + 1.0 / s.statistics.k_eff);
}

}  // namespace

bool is_mains_line(double frequency_hz, double tolerance_hz) {
  const double f = std::abs(frequency_hz);
  if (f > 420.0) return false;
  for (const double mains : {50.0, 60.0}) {
    const double multiple = std::round(f / mains);
    if (multiple >= 1.0 && std::abs(f - multiple * mains) <= tolerance_hz) return true;
  }
  return false;
}

std::vector<SpectralLine> find_lines(const Spectrum& s, std::size_t most) {
  const std::vector<float> floor = floor_curve(s);
  const auto bins = static_cast<std::ptrdiff_t>(s.power.size());
  const int reach = main_lobe_half_width_bins(s.window);
  const double threshold = peak_threshold(s);
  std::vector<SpectralLine> lines;
  for (std::ptrdiff_t k = 0; k < bins; ++k) {
    const float p = s.power[static_cast<std::size_t>(k)];
    if (!(p > threshold * floor[static_cast<std::size_t>(k)]) || p < 1e-20F) continue;
    bool is_peak = true;
    double sum = 0.0;
    double moment = 0.0;
    for (std::ptrdiff_t j = std::max<std::ptrdiff_t>(0, k - reach);
         j <= std::min(bins - 1, k + reach); ++j) {
      const float q = s.power[static_cast<std::size_t>(j)];
      if (q > p || (q == p && j < k)) is_peak = false;
      const double above = q - floor[static_cast<std::size_t>(j)];
      sum += above;
      moment += above * static_cast<double>(j - k);
    }
    if (!is_peak) continue;
    const double offset = std::clamp(moment / sum, -1.0, 1.0);
    lines.push_back({s.frequency_hz(static_cast<std::size_t>(k)) + offset * s.bin_hz(), sum});
  }
  std::sort(lines.begin(), lines.end(),
            [](const SpectralLine& a, const SpectralLine& b) { return a.power > b.power; });
  // Further down than this below the strongest is rounding of single precision, not signal.
  while (!lines.empty() && lines.back().power < kRounding * lines.front().power) lines.pop_back();
  if (lines.size() > most) lines.resize(most);
  return lines;
}

std::vector<float> least_line_power(const Spectrum& s) {
  std::vector<float> least = floor_curve(s);
  // A line midway between two bins shows less than its peak: 0.83 dB with this window.
  constexpr double kScallop = 1.22;
  const double factor = kScallop * peak_threshold(s) * enbw_bins(s.window);
  const float strongest = *std::max_element(s.power.begin(), s.power.end());
  for (float& p : least)
    p = static_cast<float>(
        std::max({factor * static_cast<double>(p), 2.0 * kRounding * strongest, 1e-20}));
  return least;
}

}  // namespace heron
