#pragma once

#include "core/method/result.h"
#include "core/signal/welch.h"

namespace heron {

/// Spectrum in dB re full scale as a sinusoid reads it, thinned to at most `points` by keeping the
/// highest bin of each group, so that no line is lost.
Curve spectrum_curve(const Spectrum& spectrum, const std::vector<float>& power, std::size_t points);

}  // namespace heron
