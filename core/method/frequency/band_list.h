#pragma once

#include <vector>

#include "core/method/method.h"

namespace heron {

/// Frequencies at which an error is told in Hz; kept as "bands_hz" among a method's settings.
inline constexpr const char* kBandList = "bands_hz";

SettingField band_list_field();
/// Empty where there are none; `settings` are the method's own.
std::vector<double> bands_from(const nlohmann::json& settings);

}  // namespace heron
