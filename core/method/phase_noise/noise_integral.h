#pragma once

#include <vector>

#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// A curve summed over a range of offsets. Between points it is straight in decibels over the
/// logarithm of the offset, and so it is integrated: exactly.
struct NoiseIntegral {
  double low_hz = 0.0;
  double high_hz = 0.0;
  double rms_rad = 0.0;         ///< square root of twice the integral of L
  double residual_fm_hz = 0.0;  ///< of twice the integral of f^2 L
  double u_rel = 0.0;           ///< standard, of rms_rad
  double u_fm_rel = 0.0;        ///< and of residual_fm_hz
  Bound bound = Bound::none;    ///< upper where a part of the curve is
  double with_spurs_rms_rad = 0.0;
  double rms_deg() const;
  double jitter_s(double carrier_hz) const;
};
/// Example: -100 dBc/Hz flat from 1 kHz to 1 MHz is 14.135 mrad. InputError where the range lies
/// outside the curve or is none.
NoiseIntegral integrate(const NoiseCurve& curve, double low_hz, double high_hz);

/// Least squares over the points of each decade that the curve covers.
struct NoiseSlope {
  double low_hz = 0.0;
  double high_hz = 0.0;
  double db_per_decade = 0.0;
};
std::vector<NoiseSlope> slopes_of(const NoiseCurve& curve);

}  // namespace heron
