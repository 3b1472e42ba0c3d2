#pragma once

#include <optional>

namespace heron {

/// A pad or load that heats up with one time constant (first-order thermal model). Temperature is
/// a fraction: 0 cold, 1 what the continuous rating leads to.
struct ThermalRating {
  double rated_w = 0.0;                   ///< continuous
  std::optional<double> time_constant_s;  ///< unknown: the rating is absolute
};

/// How long a power may be keyed from the given temperature, s: nullopt = for ever, 0 = not at all.
/// From cold: -tau ln(1 - P_rated / P).
std::optional<double> key_down_time_s(const ThermalRating& rating, double power_w,
                                      double temperature = 0.0);

/// The power that may be keyed for the given time from cold, W.
double allowed_power_w(const ThermalRating& rating, double key_down_s);

/// Temperature after `seconds` at a power (0 W to rest).
double temperature_after(const ThermalRating& rating, double temperature, double power_w,
                         double seconds);

/// Rest until the power can be keyed for `key_down_s` without passing the rating, s; nullopt if it
/// never can.
std::optional<double> rest_time_s(const ThermalRating& rating, double temperature, double power_w,
                                  double key_down_s);

}  // namespace heron
