#pragma once

#include <optional>

#include "core/method/band_power.h"

namespace heron {

/// Signal power of a range: what stands in it less the floor (power per bin), full-scale
/// sinusoid = 1.
double signal_in(const Spectrum& spectrum, TraceView trace, double floor, FrequencyRange range);

/// The occupied bandwidth (ITU-R SM.443): equal shares of the rest lie below and above. Searched in
/// a region no wider than three times itself, so that the floor's scatter elsewhere does not count.
FrequencyRange occupied_in(const Spectrum& spectrum, TraceView trace, double floor, double fraction,
                           FrequencyRange search);

/// Where a trace, smoothed over 2 `half` + 1 bins, has fallen 26 dB below its highest in a region;
/// nullopt where the floor hides that.
std::optional<FrequencyRange> width_at_26(const Spectrum& spectrum, TraceView trace, double floor,
                                          FrequencyRange region, std::size_t half);

}  // namespace heron
