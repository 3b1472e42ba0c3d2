#pragma once

#include <span>

#include "core/method/phase_noise/noise_curve.h"
#include "core/signal/trace_csv.h"

namespace heron {

/// Phase noise from an analyser's traces of one carrier, over several spans: both sides averaged,
/// relative to the carrier, per hertz of the filter's noise bandwidth (1.0645 of its 3 dB width for
/// a Gaussian one), 2.507 dB added where levels were averaged in decibels. Each span counts from
/// six times its filter outwards, and where several do the one with the narrowest filter.
/// InputError where a filter or detector is not known, a peak detector was used, or no carrier
/// stands out.
NoiseCurve noise_of_traces(std::span<const SpectrumTrace> traces, int per_decade = 10);

}  // namespace heron
