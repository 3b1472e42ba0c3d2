#pragma once

#include <complex>
#include <memory>
#include <vector>

#include "core/signal/capture.h"

namespace heron {

/// A recording already in memory: generated signals, and blocks from an instrument.
CaptureOpener memory_capture(std::vector<std::complex<float>> samples, double sample_rate_hz,
                             std::string name = "generated");
CaptureOpener memory_capture(std::vector<float> samples, double sample_rate_hz,
                             std::string name = "generated");
/// With everything else that is known about it; rate, frames and kind are set from the samples.
CaptureOpener memory_capture(std::vector<std::complex<float>> samples, double sample_rate_hz,
                             CaptureInfo about);

}  // namespace heron
