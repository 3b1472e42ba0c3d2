#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/method/result_json.h"
#include "core/method/two_tone/two_tone.h"

namespace heron {

/// The record of an analysis: everything needed to show it again without the recording.
nlohmann::json to_json(const TwoToneAnalysis& analysis);
/// Throws InputError if the record is damaged.
TwoToneAnalysis two_tone_from_json(const nlohmann::json& record);

/// Settings as kept with a test; absent keys mean the default.
nlohmann::json to_json(const TwoToneSettings& settings);
TwoToneSettings two_tone_settings_from_json(const nlohmann::json& record);

}  // namespace heron
