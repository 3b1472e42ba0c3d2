#include "core/chain/thermal.h"

#include <algorithm>
#include <cmath>

namespace heron {

std::optional<double> key_down_time_s(const ThermalRating& rating, double power_w,
                                      double temperature) {
  if (power_w <= rating.rated_w && temperature <= 1.0) return std::nullopt;
  if (!rating.time_constant_s || temperature >= 1.0) return 0.0;
  // theta(t) = p + (theta0 - p) e^(-t/tau) reaches 1 at this time; p = P / P_rated > 1.
  const double p = power_w / rating.rated_w;
  return *rating.time_constant_s * std::log((p - temperature) / (p - 1.0));
}

double allowed_power_w(const ThermalRating& rating, double key_down_s) {
  if (!rating.time_constant_s || key_down_s <= 0.0) return rating.rated_w;
  return rating.rated_w / -std::expm1(-key_down_s / *rating.time_constant_s);
}

double temperature_after(const ThermalRating& rating, double temperature, double power_w,
                         double seconds) {
  const double end = power_w / rating.rated_w;
  if (!rating.time_constant_s) return end;
  return end + (temperature - end) * std::exp(-seconds / *rating.time_constant_s);
}

std::optional<double> rest_time_s(const ThermalRating& rating, double temperature, double power_w,
                                  double key_down_s) {
  if (power_w <= rating.rated_w) return 0.0;
  if (!rating.time_constant_s) return std::nullopt;
  const double tau = *rating.time_constant_s;
  const double p = power_w / rating.rated_w;
  // The temperature from which it ends just at 1.
  const double start = p - (p - 1.0) * std::exp(key_down_s / tau);
  if (start < 0.0) return std::nullopt;
  if (temperature <= start) return 0.0;
  if (start == 0.0) return std::nullopt;
  return tau * std::log(temperature / start);
}

}  // namespace heron
