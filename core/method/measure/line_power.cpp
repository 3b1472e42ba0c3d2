#include "core/method/measure/line_power.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

#include "core/signal/median.h"

namespace heron {
namespace {

struct LocalNoise {
  double per_bin = 0.0;
  double relative_variance = 1.0;
  double half_step = 0.0;  ///< how far the two sides stand from their mean, where they differ
};

/// Median of the free bins on both sides, corrected to the mean: a stray line does not lift it.
/// Where the sides differ by more than noise does, nobody knows where between them the place
/// itself stands.
LocalNoise local_noise(const Spectrum& s, double position, int half_width,
                       std::span<const LineSpan> others) {
  const auto last = static_cast<std::ptrdiff_t>(s.power.size()) - 1;
  const auto centre = static_cast<std::ptrdiff_t>(std::lround(position));
  const auto is_taken = [&](std::ptrdiff_t bin) {
    return std::any_of(others.begin(), others.end(), [&](const LineSpan& other) {
      return std::abs(static_cast<double>(bin) - s.position(other.frequency_hz)) <=
             other.half_width_bins + 1.0;
    });
  };
  std::vector<float> free_bins;
  std::vector<float> sides[2];
  constexpr std::size_t kWanted = 48;
  constexpr std::size_t kSaysSomething = 12;
  // Outwards until there is enough; a crowded neighbourhood looks further.
  for (std::ptrdiff_t d = half_width + 2; d < half_width + 400 && free_bins.size() < kWanted; ++d) {
    for (const int side : {0, 1}) {
      const std::ptrdiff_t bin = side == 0 ? centre - d : centre + d;
      if (bin < 0 || bin > last || is_taken(bin)) continue;
      free_bins.push_back(s.power[static_cast<std::size_t>(bin)]);
      sides[side].push_back(free_bins.back());
    }
  }
  LocalNoise noise;
  if (free_bins.empty()) return noise;
  const double to_mean = 1.0 / median_over_mean(s.statistics.k_eff);
  noise.per_bin = median_of(free_bins) * to_mean;
  // Neighbouring bins share a window: about ENBW of them count as one.
  const auto variance = [&](std::size_t bins) {
    return std::numbers::pi / 2.0 /
           (static_cast<double>(bins) / enbw_bins(s.window) * s.statistics.k_eff);
  };
  noise.relative_variance = variance(free_bins.size());
  if (std::min(sides[0].size(), sides[1].size()) < kSaysSomething) return noise;
  const double below = median_of(sides[0]) * to_mean;
  const double above = median_of(sides[1]) * to_mean;
  const double scatter = std::sqrt(variance(sides[0].size()) + variance(sides[1].size()));
  if (std::abs(below - above) > 3.5 * scatter * std::min(below, above)) {
    noise.per_bin = (below + above) / 2.0;
    noise.half_step = std::abs(below - above) / 2.0;
  }
  return noise;
}

}  // namespace

void set_bound(LinePower& line, double least, const std::function<double(double)>& sigma_at) {
  line.u_power = sigma_at(line.power);
  // The largest power that would have come out this low once in twenty times.
  double upper = std::max(line.power, 0.0);
  for (int i = 0; i < 40; ++i) upper = std::max(line.power, 0.0) + kOneSided95 * sigma_at(upper);
  line.upper_power = upper;
  line.is_bound = line.power < least || line.power < 2.0 * line.u_power;
}

void add_unknown(LinePower& line, double power) {
  if (!(power > 0.0)) return;
  const double own = std::max(line.power, 0.0);
  line.u_power = std::hypot(line.u_power, std::sqrt(2.0 * own * power) + power);
  const double amplitude = std::sqrt(line.upper_power) + kOneSided95 * std::sqrt(power);
  line.upper_power = amplitude * amplitude;
  line.noise_rbw += power;
  line.is_bound = line.is_bound || line.power < line.noise_rbw || line.power < 2.0 * line.u_power;
}

LinePower measure_line(const Spectrum& s, double frequency_hz, int half_width_bins,
                       std::span<const LineSpan> others) {
  const double position = s.position(frequency_hz);
  const auto last = static_cast<std::ptrdiff_t>(s.power.size()) - 1;
  const auto centre = static_cast<std::ptrdiff_t>(std::lround(position));
  const std::ptrdiff_t from = std::clamp<std::ptrdiff_t>(centre - half_width_bins, 0, last);
  const std::ptrdiff_t to = std::clamp<std::ptrdiff_t>(centre + half_width_bins, 0, last);
  double measured = 0.0;
  for (std::ptrdiff_t k = from; k <= to; ++k) measured += s.power[static_cast<std::size_t>(k)];

  const LocalNoise noise = local_noise(s, position, half_width_bins, others);
  const double noise_in_lobe = noise.per_bin * static_cast<double>(to - from + 1);
  LinePower line;
  // The higher side is the floor that is told.
  line.noise_rbw = (noise.per_bin + noise.half_step) * enbw_bins(s.window);
  line.power = measured - noise_in_lobe;

  // White noise of density N0 = per_bin / bin; a record worth T seconds: N0 / T = per_bin * n / m.
  // For real audio one-sided bins hold twice the noise of a line's bins: the same expression.
  const double n0_over_t =
      noise.per_bin * static_cast<double>(s.segment) / s.statistics.effective_samples;
  const double step_in_lobe = noise.half_step * static_cast<double>(to - from + 1);
  const double own_variance =
      noise.per_bin * noise.per_bin * s.statistics.lobe_correlation_sum(half_width_bins) /
          s.statistics.k_eff +
      noise_in_lobe * noise_in_lobe * noise.relative_variance + step_in_lobe * step_in_lobe / 3.0;
  const auto sigma_at = [&](double power) {
    return std::sqrt(2.0 * std::max(power, 0.0) * n0_over_t + own_variance);
  };
  set_bound(line, line.noise_rbw, sigma_at);
  return line;
}

}  // namespace heron
