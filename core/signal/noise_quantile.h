#pragma once

namespace heron {

/// What a mean of so many sweeps of Gaussian noise's power stays below with this probability, mean
/// power = 1 (chi-square by Wilson and Hilferty's cube; within 0.5 dB for one sweep, 0.1 dB from
/// four on).
double noise_quantile(double sweeps, double probability);

/// The same of a normal deviate (Abramowitz and Stegun 26.2.23, within 0.0005).
double normal_quantile(double probability);

}  // namespace heron
