#pragma once

#include <functional>
#include <span>
#include <utility>
#include <vector>

#include "core/signal/welch.h"

namespace heron {

using TraceView = std::span<const float>;
using FrequencyRange = std::pair<double, double>;  ///< from low to high, Hz

/// Power of a spectrum between two frequencies, full-scale sinusoid = 1. Bins are cut where the
/// edges cut them.
double band_power(const Spectrum& spectrum, TraceView power, double from_hz, double to_hz);

/// Noise per bin below whatever is transmitted: the quiet tenth of the spectrum without its
/// filtered ends, in medians of blocks.
double quiet_floor(const Spectrum& spectrum, TraceView power);

/// How the traces of a recording's parts are put together.
enum class Hold { average, max };

/// The trace over all parts of the recording.
const std::vector<float>& whole_trace(const Spectrum& spectrum, Hold hold);

/// Standard uncertainties of what `figures` reads from a trace, by leaving out each part of the
/// recording in turn (jackknife): true for noise and for speech, which is not stationary. Such that
/// k = 2 covers 95 % with as many degrees of freedom as the parts give. Infinite with fewer than
/// three parts.
std::vector<double> jackknife_u(const Spectrum& spectrum, Hold hold,
                                const std::function<std::vector<double>(TraceView)>& figures);

/// Averaged spectrum with max-hold of a recording, with about `bins_in` bins over `width_hz` if the
/// record is long enough for 16 averages.
Spectrum spectrum_for_width(const CaptureOpener& open, double width_hz, double bins_in,
                            unsigned threads, const Progress& progress,
                            const std::stop_token& stop);

}  // namespace heron
