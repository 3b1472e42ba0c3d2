#pragma once

#include "core/method/measure/phase_stream.h"

namespace heron {

/// A recording with a carrier whose surroundings are seen on both sides.
struct CarrierCapture {
  CaptureOpener open;  ///< I and Q, also where the recording itself is real audio
  FoundCarrier carrier;
  double frequency_hz = 0.0;  ///< in the recording as it was
  double top_hz = 0.0;        ///< offset up to which both sides are seen
};
/// InputError where no carrier stands out, or it is too near the end of what was recorded.
CarrierCapture carrier_capture(const CaptureOpener& open, const std::stop_token& stop = {});

}  // namespace heron
