#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/method/bandwidth.h"
#include "core/method/noise_test.h"

namespace heron {

/// As kept beside their recordings, and read back. InputError if damaged.
nlohmann::json to_json(const BandwidthAnalysis& analysis);
BandwidthAnalysis bandwidth_from_json(const nlohmann::json& record);
nlohmann::json to_json(const NoiseTestAnalysis& analysis);
NoiseTestAnalysis noise_test_from_json(const nlohmann::json& record);

}  // namespace heron
