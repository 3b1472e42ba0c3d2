#pragma once

#include <vector>

#include "core/method/method.h"
#include "core/method/touch/touch_events.h"

namespace heron {

inline constexpr const char* kTouchSettings = "touch";
inline constexpr const char* kTouchEvents = "events";

/// What is asked of a touch test.
struct TouchPlan {
  std::vector<TouchEvent> events;
  double span_hz = 1200.0;
  double least_hz = 40.0;   ///< nearer to the carrier no line is told from it
  bool shows_mean = false;  ///< else what is highest
  double scale_db = 0.2;    ///< standard: of a line against the carrier
  double repeats_db = 0.2;  ///< standard: how well the same line agrees with itself
};
TouchPlan touch_plan(const Evidence& evidence);

std::vector<SettingField> touch_setting_fields();
nlohmann::json usual_touch_settings();
std::string touch_setting_words(const Evidence& evidence);
std::string check_touch_settings(const nlohmann::json& settings);
LimitField touch_limit(const Evidence& evidence);

}  // namespace heron
