#include "core/signal/rounding.h"

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <numbers>
#include <vector>

#include "core/signal/median.h"

namespace heron {
namespace {

constexpr std::int64_t kLongestPeriod = 65536;

/// Samples after which both tones repeat to a quarter of a cycle over the whole recording; 0 if
/// that takes too long.
std::int64_t period_of(const CaptureInfo& recording, double f1_hz, double f2_hz) {
  const double allowed = 0.25 / static_cast<double>(std::max<std::int64_t>(1, recording.frames));
  for (std::int64_t n = 1; n <= std::min(kLongestPeriod, recording.frames / 4); ++n) {
    const auto repeats = [&](double hz) {
      const double cycles = hz / recording.sample_rate_hz * static_cast<double>(n);
      return std::abs(cycles - std::round(cycles)) <= allowed * static_cast<double>(n);
    };
    if (repeats(f1_hz) && repeats(f2_hz)) return n;
  }
  return 0;
}

}  // namespace

double rounding_on_a_line(const CaptureInfo& recording, const Spectrum& s,
                          const std::pair<double, double>& tones_hz, double amplitude) {
  if (recording.is_float || s.power.empty() || !(amplitude > 0.0)) return 0.0;
  constexpr double kPi = std::numbers::pi;
  const double step = std::ldexp(1.0, 1 - std::min(recording.bits, 24));
  const double total = step * step / 6.0;
  std::vector<float> levels = s.power;
  const double bins =
      static_cast<double>(levels.size()) * recording.sample_rate_hz / s.sample_rate_hz;
  const double spread = median_of(levels) / median_over_mean(s.statistics.k_eff) * bins;
  // Sums of rounding over two sinusoids, J_a(z) J_b(z) for each component with z in radians of a
  // step; noise of a good part of a step smooths it away.
  const double z = 2.0 * kPi * amplitude / step;
  const double sigma_squared = std::max(0.0, spread - total) / 2.0 / (step * step);
  const double low_order = 2.0 * step / (kPi * kPi * std::max(z, 1.0));
  double power = low_order * low_order * std::exp(-4.0 * kPi * kPi * sigma_squared);
  // Where the tones repeat, what the floor does not hold stands in few lines: those whose order is
  // one more than a multiple of four, or odd in audio.
  if (spread < 0.7 * total) {
    if (const std::int64_t period = period_of(recording, tones_hz.first, tones_hz.second))
      power += (total - spread) /
               std::max(1.0, static_cast<double>(period) / (recording.is_complex ? 4.0 : 2.0));
  }
  return power;
}

}  // namespace heron
