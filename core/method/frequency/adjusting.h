#pragma once

#include <optional>
#include <span>

#include "core/quantity/figure.h"

namespace heron {

/// A stepped setting and the frequency that it gave.
struct SettingPair {
  double setting = 0.0;
  double frequency_hz = 0.0;
};

/// Where to set it: a straight line through the pairs by least squares, as steps are alike near
/// each other. Example: 100 -> 9 999 990 Hz, 110 -> 9 999 995 Hz, target 10 MHz: 0.5 Hz a step,
/// next 120.
struct Adjustment {
  double slope_hz_per_step = 0.0;
  double u_slope_hz_per_step = 0.0;  ///< 0 of two pairs
  double exact = 0.0;                ///< that would meet the target
  double u_exact = 0.0;
  long long next = 0;         ///< the step nearest to it
  double predicted_hz = 0.0;  ///< there
  double residual_hz = 0.0;   ///< predicted less target
  double closest_hz = 0.0;    ///< half a step: what nobody can do better than
};

/// InputError with fewer than two settings, or where frequency does not follow them.
Adjustment next_setting(std::span<const SettingPair> pairs, double target_hz);

}  // namespace heron
