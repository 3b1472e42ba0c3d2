#pragma once

#include "core/signal/capture.h"

namespace heron {

/// A recording as I and Q with `hz` moved to 0 Hz. Of real audio the positive frequencies keep
/// their amplitude; each line then has a mirror at minus its own frequency.
CaptureOpener shifted_capture(CaptureOpener open, double hz);

}  // namespace heron
