#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/method.h"

namespace heron {

inline constexpr const char* kAdjustSettings = "adjust";
inline constexpr const char* kSettingCondition = "setting";

struct AdjustPlan {
  std::optional<double> nominal_hz;
  std::optional<double> source_ppm;  ///< of the counter, as a limit
  double shift_hz = 0.0;             ///< warm and closed it reads so much higher than now
  double u_shift_hz = 0.0;           ///< expanded
  bool has_shift = false;
  bool is_shift_of_record = false;  ///< it was told by the drift record
  bool is_shift_of_check = false;   ///< by the last reading with the case closed
  bool is_power_cycled = false;     ///< a stepped setting was read again after power off
  std::optional<Limit> limit;       ///< within so many ppm
  std::string original;             ///< setting, in words
  std::string renewed;
  double every_s = 1.0;
  double length_s = 1800.0;
};

/// The shift of the zero is typed, or what the drift record still has before it so many minutes
/// after switching on.
AdjustPlan adjust_plan(const Evidence& evidence);
nlohmann::json usual_adjust_settings();
std::string check_adjust_settings(const nlohmann::json& test_settings);
std::vector<SettingField> adjust_setting_fields();
std::string adjust_setting_words(const Evidence& evidence);
std::vector<TypedField> adjust_fields();

}  // namespace heron
