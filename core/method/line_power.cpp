#include "core/method/line_power.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <vector>

namespace heron {
namespace {

struct LocalNoise {
  double per_bin = 0.0;
  double relative_variance = 1.0;
};

/// Median of the free bins on both sides, corrected to the mean: a stray line does not lift it.
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
  constexpr std::size_t kWanted = 48;
  // Outwards until there is enough; a crowded neighbourhood looks further.
  for (std::ptrdiff_t d = half_width + 2; d < half_width + 400 && free_bins.size() < kWanted; ++d) {
    for (const std::ptrdiff_t bin : {centre - d, centre + d}) {
      if (bin >= 0 && bin <= last && !is_taken(bin))
        free_bins.push_back(s.power[static_cast<std::size_t>(bin)]);
    }
  }
  LocalNoise noise;
  if (free_bins.empty()) return noise;
  const auto middle = free_bins.begin() + static_cast<std::ptrdiff_t>(free_bins.size() / 2);
  std::nth_element(free_bins.begin(), middle, free_bins.end());
  noise.per_bin = *middle / median_over_mean(s.statistics.k_eff);
  // Neighbouring bins share a window: about ENBW of them count as one.
  const double independent = static_cast<double>(free_bins.size()) / enbw_bins(s.window);
  noise.relative_variance = std::numbers::pi / 2.0 / (independent * s.statistics.k_eff);
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
  line.noise_rbw = noise.per_bin * enbw_bins(s.window);
  line.power = measured - noise_in_lobe;

  // White noise of density N0 = per_bin / bin; a record worth T seconds: N0 / T = per_bin * n / m.
  // For real audio one-sided bins hold twice the noise of a line's bins: the same expression.
  const double n0_over_t =
      noise.per_bin * static_cast<double>(s.segment) / s.statistics.effective_samples;
  const double own_variance = noise.per_bin * noise.per_bin *
                                  s.statistics.lobe_correlation_sum(half_width_bins) /
                                  s.statistics.k_eff +
                              noise_in_lobe * noise_in_lobe * noise.relative_variance;
  const auto sigma_at = [&](double power) {
    return std::sqrt(2.0 * std::max(power, 0.0) * n0_over_t + own_variance);
  };
  set_bound(line, line.noise_rbw, sigma_at);
  return line;
}

}  // namespace heron
