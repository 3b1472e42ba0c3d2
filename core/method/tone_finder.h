#pragma once

#include <optional>
#include <utility>
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

/// The two test tones among the lines, without being told: the pair of nearly equal strong lines
/// (at most 7 dB apart) that best explains the other lines as its products; 0 Hz and mains hum do
/// not count. nullopt if there is no such pair.
std::optional<std::pair<SpectralLine, SpectralLine>> choose_tone_pair(
    const Spectrum& spectrum, const std::vector<SpectralLine>& lines);

/// True for 50/60 Hz and their low multiples, within the resolution.
bool is_mains_line(double frequency_hz, double tolerance_hz);

}  // namespace heron
