#include "core/signal/averaging.h"

#include <algorithm>
#include <cmath>
#include <complex>
#include <cstdlib>
#include <numbers>
#include <vector>

namespace heron {
namespace {

/// The correlations change slowly along the window: a long one is thinned before summing.
std::vector<double> thinned(std::span<const float> window, std::size_t step) {
  std::vector<double> out;
  for (std::size_t i = 0; i < window.size(); i += step) out.push_back(window[i]);
  return out;
}

double lagged_sum(const std::vector<double>& a, std::size_t lag) {
  double sum = 0.0;
  for (std::size_t i = 0; i + lag < a.size(); ++i) sum += a[i] * a[i + lag];
  return sum;
}

}  // namespace

AveragingStatistics averaging_statistics(std::span<const float> window, std::size_t hop,
                                         std::size_t segments) {
  AveragingStatistics stats;
  std::size_t step = 1;
  while (window.size() / step > 4096 && hop % (2 * step) == 0) step *= 2;
  const std::vector<double> w = thinned(window, step);
  std::vector<double> w2(w.size());
  std::transform(w.begin(), w.end(), w2.begin(), [](double v) { return v * v; });
  const double energy = lagged_sum(w, 0);
  const double energy2 = lagged_sum(w2, 0);
  const std::size_t lag = hop / step;
  const double k = static_cast<double>(segments);

  double variance_sum = k;
  double gain_sum = k * energy2;
  for (std::size_t m = 1; m < segments && m * lag < w.size(); ++m) {
    const double pairs = 2.0 * (k - static_cast<double>(m));
    const double rho = lagged_sum(w, m * lag) / energy;
    variance_sum += pairs * rho * rho;
    gain_sum += pairs * lagged_sum(w2, m * lag);
  }
  stats.k_eff = k * k / variance_sum;
  stats.effective_samples = static_cast<double>(step) * (k * energy) * (k * energy) / gain_sum;

  for (int d = 0; d < 9; ++d) {
    std::complex<double> sum = 0.0;
    for (std::size_t i = 0; i < w2.size(); ++i) {
      sum += std::polar(w2[i], 2.0 * std::numbers::pi * d * static_cast<double>(i) /
                                   static_cast<double>(w2.size()));
    }
    stats.bin_correlation[d] = std::norm(sum / energy);
  }
  return stats;
}

double AveragingStatistics::lobe_correlation_sum(int half_width_bins) const {
  const int bins = 2 * half_width_bins + 1;
  double sum = bins * bin_correlation[0];
  for (int d = 1; d < std::min(bins, 9); ++d) sum += 2.0 * (bins - d) * bin_correlation[d];
  return sum;
}

double median_over_mean(double k_eff) {
  const double root = 1.0 - 1.0 / (9.0 * std::max(k_eff, 0.5));
  return root * root * root;
}

}  // namespace heron
