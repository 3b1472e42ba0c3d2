#pragma once

#include "core/signal/capture.h"

namespace heron {

/// Share of the output rate, on each side of 0 Hz, that a decimated recording is true in.
inline constexpr double kDecimatedBand = 0.4;

/// An I/Q recording at 2^-halvings of its rate: what lies within kDecimatedBand of the new rate
/// from 0 Hz stays as it is, all else is 120 dB down. Streams; memory does not grow with the file.
CaptureOpener decimated_capture(CaptureOpener open, int halvings);

}  // namespace heron
