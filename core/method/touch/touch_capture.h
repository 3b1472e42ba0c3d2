#pragma once

#include "core/method/touch/touch_record.h"
#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

/// Spectra of a quarter of a second beside the carrier of a recording, half overlapping, its slow
/// drift taken out of each; in a record of over ten minutes each frame is the mean of more.
/// InputError where no carrier stands out, it is lost in more than a fifth, or less than two
/// seconds are there; Cancelled.
TouchRecord touch_of_capture(const CaptureOpener& open, const Progress& progress = {},
                             const std::stop_token& stop = {});

}  // namespace heron
