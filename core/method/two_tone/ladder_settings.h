#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "core/method/two_tone/two_tone.h"

namespace heron {

/// What the ladder as a whole is judged with; kept among a test's settings.
struct LadderSettings {
  std::optional<double> ceiling_dbm;  ///< most output that may be used, PEP
  std::string ceiling_typed;
  double reading_u_db = 0.5;           ///< standard uncertainty of a product read off a screen
  std::optional<double> linearity_db;  ///< of the recorder between two lines, 95 %; else as stated
};
LadderSettings ladder_settings_from_json(const nlohmann::json& settings);
/// `settings` with these in them.
nlohmann::json with_ladder_settings(nlohmann::json settings, const LadderSettings& ladder);

/// Settings of a test as older versions kept them, in today's places.
nlohmann::json renewed_two_tone_settings(nlohmann::json settings);

/// What a recording of a test is analysed with; InputError if damaged.
TwoToneSettings analysis_settings_of(const nlohmann::json& settings);

}  // namespace heron
