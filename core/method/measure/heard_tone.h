#pragma once

#include <optional>
#include <stop_token>
#include <vector>

#include "core/judge/remark.h"
#include "core/signal/capture.h"

namespace heron {

/// The tone of a recording, part after part: the strongest sinusoid by least squares (IEEE 1057,
/// `estimate_tones`), whose u is that of white noise about it, where it stands 14 dB out of the
/// noise of a resolution cell.
struct HeardTone {
  double start_s = 0.0;
  double frequency_hz = 0.0;
  double u_hz = 0.0;
  double level_dbfs = 0.0;
  double snr_db_hz = 0.0;  ///< tone to noise in 1 Hz
  double snr_db = 0.0;     ///< in 1 / length of the part
};
struct HeardTones {
  std::vector<HeardTone> tones;
  std::vector<Remark> remarks;  ///< where it was lost
};

struct ToneWish {
  std::optional<double> near_hz;  ///< look within 5 % (at least 50 Hz) of this only
  double segment_s = 0.0;         ///< 0 = the whole recording
};

/// InputError where the recording is shorter than a few periods, or no tone stands out anywhere.
HeardTones hear_tone(const CaptureOpener& open, const ToneWish& wish,
                     const std::stop_token& stop = {});

}  // namespace heron
