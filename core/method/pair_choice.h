#pragma once

#include <optional>
#include <utility>
#include <vector>

#include "core/method/tone_finder.h"

namespace heron {

using LinePair = std::pair<SpectralLine, SpectralLine>;  ///< lower, upper

/// The two test tones among the lines of a spectrum, without being told.
struct PairChoice {
  std::optional<LinePair> pair;  ///< nullopt: none, or several that nothing tells apart
  std::vector<LinePair> rivals;  ///< all of those, the likeliest first
};

/// The pair of nearly equal lines (at most 7 dB apart) that best explains other lines as its
/// products; equal and strong ones before others, but products count for more than strength. 0 Hz
/// and mains hum do not count.
PairChoice choose_tone_pair(const Spectrum& spectrum, const std::vector<SpectralLine>& lines);

/// How far from where they are asked for tones are looked for, Hz.
double asked_reach_hz(double first_hz, double second_hz);

/// What stands where two tones are asked for.
struct AskedPair {
  std::optional<LinePair> pair;
  std::optional<double> missing_hz;  ///< where nothing stands
  bool is_mirrored = false;          ///< but both stand on the other side of 0 Hz
};
AskedPair find_asked_pair(const std::vector<SpectralLine>& lines, double first_hz, double second_hz,
                          double bin_hz);

}  // namespace heron
