#pragma once

#include "core/signal/capture.h"

namespace heron {

/// Part of a recording, as a recording. Throws InputError (when opened) if the part lies outside it
/// or is empty. `length_s` <= 0: to the end.
CaptureOpener capture_range(CaptureOpener open, double start_s, double length_s);

}  // namespace heron
