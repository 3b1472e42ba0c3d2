#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <optional>

namespace heron::testing {

/// The tone and its third to seventh order, dB, of two tones of amplitude `a` each through the
/// smooth limiter y = x / (1 + |x|^2p)^(1/2p).
inline std::array<double, 4> limiter_levels(double order, double a) {
  constexpr int kPoints = 256;
  std::array<double, 4> sums{};
  for (int k = 0; k < kPoints; ++k) {
    const double phi = 2.0 * std::numbers::pi * (k + 0.5) / kPoints;
    const double x = 2.0 * a * std::cos(phi);
    const double y = x / std::pow(1.0 + std::pow(std::abs(x), 2.0 * order), 0.5 / order);
    for (std::size_t n = 0; n < 4; ++n)
      sums[n] += y * std::cos((2.0 * static_cast<double>(n) + 1.0) * phi) / kPoints;
  }
  for (double& s : sums) s = 20.0 * std::log10(std::max(std::abs(s), 1e-9));
  return sums;
}

/// The amplitude whose worst product stands at a limit, dB below one tone; nullopt outside of 1e-3
/// to 3.
inline std::optional<double> limiter_amplitude_at(double order, double limit) {
  const auto worst = [&](double a) {
    const auto db = limiter_levels(order, a);
    return *std::max_element(db.begin() + 1, db.end()) - db[0];
  };
  double low = 1e-3;
  double high = 3.0;
  if (worst(low) > limit || worst(high) < limit) return std::nullopt;
  for (int k = 0; k < 60; ++k) {
    const double mid = std::sqrt(low * high);
    (worst(mid) > limit ? high : low) = mid;
  }
  return low;
}

}  // namespace heron::testing
