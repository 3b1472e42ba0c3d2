#pragma once

#include "core/method/method.h"
#include "core/method/receiver/indicator.h"

namespace heron {

inline constexpr const char* kIndicatorSettings = "indicator";
inline constexpr const char* kIndicatorLevel = "level";
inline constexpr const char* kGoesOut = "goes_out";

/// What was set for a test of an indicator.
struct IndicatorPlan {
  bool is_handbook = false;             ///< judged by the maker's S9, not by 50 uV
  std::optional<double> handbook_dbm;   ///< level that the maker calls S9
  double u_db = 0.35;                   ///< standard, of a level and of how it is read
  std::optional<double> dark_segments;  ///< so many are lit without signal
  std::optional<Limit> limit;           ///< within so many dB
  std::optional<std::pair<double, double>> change_db;  ///< that was read off it, re S9
  double s9_dbm(double frequency_hz) const {
    return is_handbook && handbook_dbm ? *handbook_dbm : usual_s9_dbm(frequency_hz);
  }
};
IndicatorPlan indicator_plan(const Evidence& evidence);

/// One reading that was typed, by its band: "14.2 MHz, S9", "S9+20" where there is one band only;
/// "14.2 MHz, S9, after" once S9 was moved, "14.2 MHz, S9, attenuator 20 dB" by substitution.
struct IndicatorStep {
  std::string band;
  std::optional<double> frequency_hz;
  IndicatorReading reading;
  bool is_after = false;                ///< S9 was moved before it
  std::optional<double> attenuator_db;  ///< of the receiver's own, switched in for it
};
/// InputError where the name says no reading.
IndicatorStep indicator_step(const std::string& label);

std::vector<TypedField> indicator_fields();
std::vector<SettingField> indicator_setting_fields();
nlohmann::json usual_indicator_settings();
std::string indicator_setting_words(const Evidence& evidence);
std::string check_indicator_settings(const nlohmann::json& settings);
std::string_view bare_indicator_unit(const TypedField& field, const nlohmann::json& settings);
LimitField indicator_limit(const Evidence& evidence);

}  // namespace heron
