#pragma once

#include <vector>

#include "core/signal/welch.h"

namespace heron {

/// A peak that stands out of the noise.
struct SpectralLine {
  double frequency_hz = 0.0;
  double power = 0.0;  ///< full-scale sinusoid = 1
};

/// Peaks at least 10 dB above the local floor, strongest first, at most `most`.
std::vector<SpectralLine> find_lines(const Spectrum& spectrum, std::size_t most = 40);

/// Of each bin: a line with more power than this (full-scale sinusoid = 1) would be found there,
/// wherever it lies between two bins.
std::vector<float> least_line_power(const Spectrum& spectrum);

/// True for 50/60 Hz and their low multiples, within the resolution.
bool is_mains_line(double frequency_hz, double tolerance_hz);

}  // namespace heron
