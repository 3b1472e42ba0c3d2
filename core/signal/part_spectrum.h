#pragma once

#include <cstddef>
#include <stop_token>
#include <vector>

#include "core/signal/capture.h"

namespace heron {

/// A rough spectrum of part of a recording, for telling what is in it: transform order, the
/// recorder's own centre taken out. Transforms are spread over the part.
class PartSpectrum {
 public:
  /// Frames `first` .. `first + frames`, not fewer than one transform.
  PartSpectrum(const CaptureOpener& open, std::int64_t first, std::int64_t frames,
               std::size_t transform_size, std::size_t most_transforms,
               const std::stop_token& stop);

  const std::vector<double>& power() const { return power_; }
  /// Bins that stand 10 dB out of their surroundings and within 20 dB of the strongest of them.
  std::vector<std::size_t> lines() const;
  /// Power in those bins over all power.
  double share_of(const std::vector<std::size_t>& bins) const;
  /// Mean power in those bins over what surrounds them.
  double contrast_of(const std::vector<std::size_t>& bins) const;
  double power_in(const std::vector<std::size_t>& bins) const;

 private:
  double surroundings(std::size_t bin) const;
  bool is_complex_ = true;
  std::vector<double> power_;
  std::vector<double> floor_;  ///< medians round each bin
};

/// Size of transform for parts of at least so many frames: as fine as tells tones from noise, if
/// four fit in.
std::size_t part_transform_size(const CaptureInfo& info, std::int64_t frames);

/// Power in some bins over time: `slices` means of a few transforms each, spread over the part.
std::vector<double> power_in_bins(const CaptureOpener& open, std::int64_t first,
                                  std::int64_t frames, std::size_t transform_size,
                                  const std::vector<std::size_t>& bins, std::size_t slices,
                                  const std::stop_token& stop);

}  // namespace heron
