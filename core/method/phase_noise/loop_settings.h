#pragma once

#include "core/method/method.h"
#include "core/method/phase_noise/loop_text.h"

namespace heron {

inline constexpr const char* kLoopSettings = "loop";

/// A loop as it is built, what is tried instead, and what counts.
struct LoopPlan {
  LoopParts built;
  std::optional<LoopParts> tried;
  double offset_hz = 20e3;     ///< the noise there is told
  double u_parts = 0.02;       ///< standard, relative: of each part and of the VCO's gain
  std::optional<Limit> limit;  ///< phase margin, at least, degrees
};

LoopPlan loop_plan(const Evidence& evidence);
nlohmann::json usual_loop_settings();
std::string check_loop_settings(const nlohmann::json& test_settings);
std::vector<SettingField> loop_setting_fields();
std::string loop_setting_words(const Evidence& evidence);
LimitField loop_limit(const Evidence& evidence);

}  // namespace heron
