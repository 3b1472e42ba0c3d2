#include "core/method/frequency/adjusting.h"

#include <cmath>

#include "core/error.h"

namespace heron {

Adjustment next_setting(std::span<const SettingPair> pairs, double target_hz) {
  double mean_setting = 0.0;
  double mean_hz = 0.0;
  const auto n = static_cast<double>(pairs.size());
  for (const SettingPair& p : pairs) {
    mean_setting += p.setting / n;
    mean_hz += (p.frequency_hz - target_hz) / n;
  }
  double square = 0.0;
  double product = 0.0;
  for (const SettingPair& p : pairs) {
    square += std::pow(p.setting - mean_setting, 2.0);
    product += (p.setting - mean_setting) * (p.frequency_hz - target_hz - mean_hz);
  }
  if (pairs.size() < 2 || square <= 0.0)
    throw InputError("the pairs", "", "they are of one setting only",
                     "Read the frequency at two settings at least");
  Adjustment a;
  a.slope_hz_per_step = product / square;
  double off = 0.0;
  for (const SettingPair& p : pairs)
    off += std::pow(
        p.frequency_hz - target_hz - mean_hz - a.slope_hz_per_step * (p.setting - mean_setting),
        2.0);
  const double variance = pairs.size() > 2 ? off / (n - 2.0) : 0.0;
  a.u_slope_hz_per_step = std::sqrt(variance / square);
  if (a.slope_hz_per_step == 0.0 || std::abs(a.slope_hz_per_step) < 2.0 * a.u_slope_hz_per_step)
    throw InputError("the pairs", "", "the frequency does not follow the setting",
                     "Compare that it is the right setting, and change it by more");
  a.exact = mean_setting - mean_hz / a.slope_hz_per_step;
  const double away = a.exact - mean_setting;
  a.u_exact =
      std::sqrt(variance / n + away * away * variance / square) / std::abs(a.slope_hz_per_step);
  a.next = std::llround(a.exact);
  a.residual_hz = a.slope_hz_per_step * (static_cast<double>(a.next) - a.exact);
  a.predicted_hz = target_hz + a.residual_hz;
  a.closest_hz = std::abs(a.slope_hz_per_step) / 2.0;
  return a;
}

}  // namespace heron
