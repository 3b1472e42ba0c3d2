#pragma once

#include "core/method/phase_noise/noise_curve.h"
#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

struct NoiseWish {
  int per_decade = 20;
};

/// Phase and amplitude noise of the carrier in a recording: the phase is unwrapped, its mean
/// frequency and drift taken out, and its spectrum read octave by octave. Offsets from some sixty
/// over the length of the record up to what the recording has on both sides of the carrier.
/// InputError where no carrier stands out, or it is lost in more than a fifth of it; Cancelled.
NoiseCurve noise_of_capture(const CaptureOpener& open, const NoiseWish& wish = {},
                            const Progress& progress = {}, const std::stop_token& stop = {});

}  // namespace heron
