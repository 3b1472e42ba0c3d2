#pragma once

#include <nlohmann/json_fwd.hpp>

#include "core/method/two_tone.h"

namespace heron {

/// The record of an analysis: everything needed to show it again without the recording.
nlohmann::json to_json(const TwoToneAnalysis& analysis);
/// Throws InputError if the record is damaged.
TwoToneAnalysis two_tone_from_json(const nlohmann::json& record);

/// Settings as kept with a test; absent keys mean the default.
nlohmann::json to_json(const TwoToneSettings& settings);
TwoToneSettings two_tone_settings_from_json(const nlohmann::json& record);

nlohmann::json to_json(const Limit& limit);
Limit limit_from_json(const nlohmann::json& record);

/// Common vocabulary of the command line and of reports: figures, remarks; never NaN.
nlohmann::json to_json(const Figure& figure);
nlohmann::json to_json(const Remark& remark);
nlohmann::json finite_or_null(double value);

}  // namespace heron
