#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

inline constexpr const char* kBandsKey = "bands";
inline constexpr const char* kSlopeKey = "most_slope_db";

/// Everything that a test of the frequency response says.
Result evaluate_response(const Evidence& evidence);

/// The rows of the table of bands: those below, or the whole sweep where there are none.
std::vector<struct BandMarker> shown_bands(const Evidence& evidence);
/// Those that somebody set; else the usual ones that the planned frequency or the readings touch.
std::vector<struct BandMarker> response_bands(const Evidence& evidence);

}  // namespace heron
