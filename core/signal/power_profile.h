#pragma once

#include <complex>
#include <cstdint>
#include <stop_token>
#include <vector>

#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

/// Power of a recording over time, in at most some ten thousand equal cells however long it is.
struct PowerProfile {
  double cell_s = 0.0;
  std::int64_t cell_frames = 0;
  /// Mean power of each cell without the recorder's own constant offset; full-scale sinusoid = 1.
  std::vector<double> power;
  std::vector<float> peak;            ///< largest |I| or |Q| of each cell
  std::vector<std::int64_t> clipped;  ///< samples at or above CaptureInfo::clip_level
};

/// Streams the recording once on `threads` threads (0 = all cores). Cells of 5 ms or more, the last
/// one with what is left over. Throws InputError or Cancelled.
PowerProfile power_profile(const CaptureOpener& open, unsigned threads = 0,
                           const Progress& progress = {}, const std::stop_token& stop = {});

}  // namespace heron
