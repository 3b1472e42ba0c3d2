#pragma once

#include <functional>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/method/measure/tone_finder.h"

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
/// The same at radio frequencies, where every line may be a tone. Products are looked for within
/// so many hertz of their places.
PairChoice choose_tone_pair(const std::vector<SpectralLine>& lines, double within_hz);

/// "Several pairs of lines could be the tones: ...", each as `text` writes it.
std::string rivals_text(const std::vector<LinePair>& rivals,
                        const std::function<std::string(const LinePair&)>& text);

/// What stands where two tones are asked for.
struct AskedPair {
  double reach_hz = 0.0;  ///< so far beside the places
  std::optional<LinePair> pair;
  std::optional<double> missing_hz;  ///< where nothing stands
  bool is_mirrored = false;          ///< but both stand on the other side of 0 Hz
};
/// Within a tenth of their spacing, 10 Hz or three times the resolution, whichever is most.
AskedPair find_asked_pair(const std::vector<SpectralLine>& lines, double first_hz, double second_hz,
                          double resolution_hz);

}  // namespace heron
