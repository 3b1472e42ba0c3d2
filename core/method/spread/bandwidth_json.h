#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/method/spread/bandwidth.h"
#include "core/method/spread/noise_ratio.h"

namespace heron {

/// As kept beside their recordings, and read back. InputError if damaged.
nlohmann::json to_json(const BandwidthAnalysis& analysis);
BandwidthAnalysis bandwidth_from_json(const nlohmann::json& record);
nlohmann::json to_json(const NoiseRatioAnalysis& analysis);
NoiseRatioAnalysis noise_ratio_from_json(const nlohmann::json& record);

}  // namespace heron
