#include "core/method/frequency/noise_kind.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace heron {
namespace {

constexpr std::size_t kLeastSamples = 30;
/// Between two samples so close the increments hardly differ: closer ones tell nothing more.
constexpr double kFinest = 128.0;
constexpr std::size_t kMostWhiteSpacing = 4096;

/// Generalised autocovariance of phase of integrated power-law noise, lag in averaging times.
double generalised(double t, int alpha) {
  t = std::abs(t);
  switch (alpha) {
    case 4:
      return 0.0;
    case 2:
      return -t;
    case 1:
      return t == 0.0 ? 0.0 : t * t * std::log(t);
    case 0:
      return t * t * t;
    case -1:
      return t == 0.0 ? 0.0 : -std::pow(t, 4) * std::log(t);
    case -2:
      return -std::pow(t, 5);
    case -3:
      return t == 0.0 ? 0.0 : std::pow(t, 6) * std::log(t);
    default:
      return std::pow(t, 7);
  }
}

/// Of phase smoothed over 1 / filter averaging times; filter 0 = not smoothed.
double smoothed(double t, double filter, int alpha) {
  if (filter == 0.0) return generalised(t, alpha + 2);
  return filter * filter *
         (2.0 * generalised(t, alpha) - generalised(t - 1.0 / filter, alpha) -
          generalised(t + 1.0 / filter, alpha));
}

/// Of its d-th differences.
double differenced(double t, double filter, int alpha, int d) {
  static constexpr std::array<std::array<double, 4>, 3> kWeights{
      {{2.0, -1.0, 0.0, 0.0}, {6.0, -4.0, 1.0, 0.0}, {20.0, -15.0, 6.0, -1.0}}};
  const auto& w = kWeights[static_cast<std::size_t>(d - 1)];
  double sum = w[0] * smoothed(t, filter, alpha);
  for (int k = 1; k <= d; ++k)
    sum += w[static_cast<std::size_t>(k)] *
           (smoothed(t - k, filter, alpha) + smoothed(t + k, filter, alpha));
  return sum;
}

double first_correlation(const std::vector<double>& z) {
  double mean = 0.0;
  for (const double v : z) mean += v;
  mean /= static_cast<double>(z.size());
  double product = 0.0;
  double square = 0.0;
  for (std::size_t i = 0; i < z.size(); ++i) {
    square += (z[i] - mean) * (z[i] - mean);
    if (i + 1 < z.size()) product += (z[i] - mean) * (z[i + 1] - mean);
  }
  return square > 0.0 ? product / square : 0.0;
}

}  // namespace

int alpha_of(NoiseKind kind) {
  switch (kind) {
    case NoiseKind::white_phase:
      return 2;
    case NoiseKind::flicker_phase:
      return 1;
    case NoiseKind::white_frequency:
      return 0;
    case NoiseKind::flicker_frequency:
      return -1;
    case NoiseKind::walk:
      return -2;
    case NoiseKind::drift:
      break;
  }
  return -4;
}

std::string_view noise_name(NoiseKind kind) {
  switch (kind) {
    case NoiseKind::white_phase:
      return "white phase";
    case NoiseKind::flicker_phase:
      return "flicker phase";
    case NoiseKind::white_frequency:
      return "white frequency";
    case NoiseKind::flicker_frequency:
      return "flicker frequency";
    case NoiseKind::walk:
      return "random walk";
    case NoiseKind::drift:
      break;
  }
  return "drift";
}

NoiseKind dominant_noise(std::span<const double> phase) {
  if (phase.size() < kLeastSamples) return NoiseKind::white_frequency;
  std::vector<double> z(phase.begin(), phase.end());
  constexpr int kMostDifferences = 3;
  for (int d = 0;; ++d) {
    const double r = first_correlation(z);
    const double delta = r / (1.0 + r);
    if (d == kMostDifferences || delta < 0.25) {
      // Exponent of phase noise is -2 (delta + d), of frequency noise two more.
      const double alpha = 2.0 - 2.0 * (delta + d);
      if (alpha > 1.5) return NoiseKind::white_phase;
      if (alpha > 0.5) return NoiseKind::flicker_phase;
      if (alpha > -0.5) return NoiseKind::white_frequency;
      if (alpha > -1.5) return NoiseKind::flicker_frequency;
      return alpha > -2.75 ? NoiseKind::walk : NoiseKind::drift;
    }
    for (std::size_t i = 0; i + 1 < z.size(); ++i) z[i] = z[i + 1] - z[i];
    z.pop_back();
  }
}

double degrees_of_freedom(NoiseKind kind, int d, std::size_t m, bool is_modified,
                          bool is_overlapped, std::size_t phase_samples) {
  // A drift has no variance of its own; two differences of it are not stationary.
  const int alpha = std::max(alpha_of(kind), d == 2 ? -2 : -4);
  const auto n = static_cast<double>(phase_samples);
  const auto spacing = static_cast<double>(m);
  const double filter_samples = is_modified ? 1.0 : spacing;
  const double reach = spacing / filter_samples + spacing * d;
  if (n < reach) return 0.0;
  // White phase is only alike where samples meet: exactly at whole averaging times.
  if (alpha == 2 && !is_modified && m > 1) {
    const double terms =
        is_overlapped ? n - spacing * d : std::floor((n - 1.0) / spacing) - d + 1.0;
    const double stride = is_overlapped ? spacing : 1.0;
    const double zero = differenced(0.0, 1.0, 2, d);
    double sum = zero * zero;
    for (int k = 1; k <= d; ++k) {
      const double s = differenced(k, 1.0, 2, d);
      sum += 2.0 * std::max(0.0, 1.0 - k * stride / terms) * s * s;
    }
    return terms * zero * zero / sum;
  }
  double stride = is_overlapped ? spacing : 1.0;
  double filter = is_modified ? 1.0 : spacing;
  if (!is_modified && alpha == 1) filter = std::min<double>(spacing, kMostWhiteSpacing);
  // Long averages of such noise are as smooth as if nothing filtered them.
  if (!is_modified && alpha <= 0 && spacing > kFinest) filter = 0.0;
  double terms = 1.0 + std::floor(stride * (n - reach) / spacing);
  const double most = alpha == 1 && !is_modified ? static_cast<double>(kMostWhiteSpacing) : kFinest;
  if (stride > most) {
    terms = std::max(1.0, terms * most / stride);
    stride = most;
  }
  const double lags = std::min(terms, (d + 1.0) * stride);
  const double zero = differenced(0.0, filter, alpha, d);
  double sum = zero * zero;
  for (double j = 1.0; j < lags; j += 1.0) {
    const double s = differenced(j / stride, filter, alpha, d);
    sum += 2.0 * (1.0 - j / terms) * s * s;
  }
  return std::max(1.0, terms * zero * zero / sum);
}

}  // namespace heron
