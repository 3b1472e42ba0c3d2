#pragma once

#include <cstddef>
#include <span>
#include <string_view>

namespace heron {

/// Power-law noise of a frequency: S_y(f) grows as f^alpha.
enum class NoiseKind {
  white_phase,
  flicker_phase,
  white_frequency,
  flicker_frequency,
  walk,
  drift
};

int alpha_of(NoiseKind kind);                 ///< 2, 1, 0, -1, -2; drift as -4
std::string_view noise_name(NoiseKind kind);  ///< "white frequency"

/// The dominant noise of phase samples, from the correlation of neighbours (Riley and Greenhall
/// 2004): r1 of the samples, differenced until it is stationary, r1 / (1 + r1) tells the exponent.
/// At least some 30 samples, else white frequency is taken.
NoiseKind dominant_noise(std::span<const double> phase);

/// Equivalent degrees of freedom of a variance of finite differences (Greenhall and Riley 2003,
/// the sum without its short cuts): d-th differences of phase, averaged over m samples,
/// `is_modified`: phase averaged too, `is_overlapped`: at each sample.
double degrees_of_freedom(NoiseKind kind, int d, std::size_t m, bool is_modified,
                          bool is_overlapped, std::size_t phase_samples);

}  // namespace heron
