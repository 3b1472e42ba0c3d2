#pragma once

#include <functional>
#include <span>

#include "core/signal/welch.h"

namespace heron {

/// Half width of a Blackman-Harris line, bins.
inline constexpr int kLineHalfWidth = 4;
/// One value in twenty of a normal distribution lies further above its mean, in standard
/// deviations.
inline constexpr double kOneSided95 = 1.645;

/// Bins that belong to other lines and must not count as noise.
struct LineSpan {
  double frequency_hz = 0.0;
  int half_width_bins = 4;
};

/// Power of one spectral line with the noise under it taken off.
struct LinePower {
  double power = 0.0;      ///< signal alone, full-scale sinusoid = 1; can come out below 0 in noise
  double u_power = 0.0;    ///< standard uncertainty from the noise
  double noise_rbw = 0.0;  ///< local noise power in one resolution bandwidth
  double upper_power = 0.0;  ///< 95 % limit of the signal power
  /// Signal plus noise stands less than 3 dB above the noise, or is not significant: only
  /// `upper_power` can be told.
  bool is_bound = false;
};

/// Fills u_power, upper_power and is_bound from how the scatter grows with the power; below
/// `least` only the limit can be told.
void set_bound(LinePower& line, double least, const std::function<double(double)>& sigma_at);

/// What else may stand on the line, of unknown phase: `power` goes into floor, scatter and limit.
void add_unknown(LinePower& line, double power);

/// Adds up the bins of the line at `frequency_hz` (inside the spectrum) and subtracts the noise of
/// its neighbourhood. Scatter: var P = 2 P N0 / T for the cross term, plus the noise's own.
LinePower measure_line(const Spectrum& spectrum, double frequency_hz, int half_width_bins,
                       std::span<const LineSpan> others);

}  // namespace heron
