#pragma once

#include <cstddef>
#include <span>

namespace heron {

/// How much a Welch average over overlapping windowed segments is worth.
struct AveragingStatistics {
  /// Independent periodograms' worth: standard deviation of a noise bin = mean / sqrt(k_eff).
  double k_eff = 1.0;
  /// Samples' worth of record for a sinusoid's power: var = 2 P N0 / (samples / rate).
  double effective_samples = 0.0;
  /// sum over bins j, k of a lobe of |rho(j - k)|^2: correlation between neighbouring bins.
  double lobe_correlation_sum(int half_width_bins) const;
  /// |rho(d)|^2 between bins d apart, d = 0..8 (Welch 1967; Percival and Walden 1993).
  double bin_correlation[9] = {1, 0, 0, 0, 0, 0, 0, 0, 0};
};

AveragingStatistics averaging_statistics(std::span<const float> window, std::size_t hop,
                                         std::size_t segments);

/// Median over mean of a chi-square average of k_eff periodograms (Wilson-Hilferty).
double median_over_mean(double k_eff);

}  // namespace heron
