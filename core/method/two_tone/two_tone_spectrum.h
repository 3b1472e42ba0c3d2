#pragma once

#include <optional>
#include <utility>
#include <vector>

#include "core/method/two_tone/pair_choice.h"
#include "core/method/two_tone/two_tone.h"

namespace heron {

/// Bins between the tones that leave noise to be seen between their lobes.
inline constexpr double kSmallestSpacingBins = 12.0;
/// Moments at which the tones are followed.
inline constexpr std::size_t kMoments = 16;

/// The averaged spectrum that two tones are measured in.
struct TwoToneSpectrum {
  CaptureOpener open;  ///< the recording, or the same at a lower rate
  Spectrum spectrum;
  double usable_hz = 0.0;  ///< lines are true up to here on both sides of 0 Hz
  std::vector<SpectralLine> lines;
  std::optional<std::pair<double, double>> pair_hz;  ///< lower, upper; none found: nullopt
  std::vector<LinePair> rivals;                      ///< why none: nothing tells these apart
  AskedPair asked;                                   ///< or what stands where tones were asked for
};

/// With the wished resolution, or as fine as the record allows; finer where the tones stand close.
/// A fast recording is first looked at coarsely and then at as low a rate as all products, images
/// and the carrier fit in.
TwoToneSpectrum two_tone_spectrum(const CaptureOpener& open, const TwoToneSettings& settings,
                                  const Progress& progress, const std::stop_token& stop);

}  // namespace heron
