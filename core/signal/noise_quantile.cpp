#include "core/signal/noise_quantile.h"

#include <algorithm>
#include <cmath>

namespace heron {

double normal_quantile(double probability) {
  constexpr double kLeastPower = 1e-15;
  const double p = std::clamp(probability, kLeastPower, 1.0 - kLeastPower);
  const double tail = std::min(p, 1.0 - p);
  const double t = std::sqrt(-2.0 * std::log(tail));
  const double z = t - (2.515517 + t * (0.802853 + t * 0.010328)) /
                           (1.0 + t * (1.432788 + t * (0.189269 + t * 0.001308)));
  return p < 0.5 ? -z : z;
}

double noise_quantile(double sweeps, double probability) {
  // One sweep is exponential: known exactly.
  if (sweeps <= 1.0) return -std::log1p(-std::clamp(probability, 0.0, 1.0 - 1e-15));
  const double root =
      1.0 - 1.0 / (9.0 * sweeps) + normal_quantile(probability) / (3.0 * std::sqrt(sweeps));
  return root > 0.0 ? root * root * root : 0.0;
}

}  // namespace heron
