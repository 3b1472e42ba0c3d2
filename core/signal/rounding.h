#pragma once

#include <utility>

#include "core/signal/welch.h"

namespace heron {

/// What the rounding of a recording's samples may put on any one line, full-scale sinusoid = 1,
/// where it is no noise (step squared / 12 for each component: Bennett 1948) but follows two tones
/// of about `amplitude` each; more where they repeat after few samples. 0 for floats.
double rounding_on_a_line(const CaptureInfo& recording, const Spectrum& spectrum,
                          const std::pair<double, double>& tones_hz, double amplitude);

}  // namespace heron
