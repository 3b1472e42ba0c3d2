#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

inline constexpr const char* kConversionSettings = "conversion";
inline constexpr const char* kConversionIn = "input";
inline constexpr const char* kConversionOut = "if_level";
inline constexpr const char* kConversionLowIn = "low_input";
inline constexpr const char* kConversionLowOut = "low_if_level";

/// What the probe takes off, by the method's own settings.
double probe_db(const nlohmann::json& conversion);

/// Gain of each band, with its arithmetic; what a repetition at a lower level says of compression;
/// which band lacks gain in front.
Result evaluate_conversion(const Evidence& evidence);

}  // namespace heron
