#pragma once

#include "core/method/method.h"
#include "core/method/phase_noise/noise_family.h"
#include "core/method/phase_noise/noise_settings.h"

namespace heron {

inline constexpr const char* kFamilySettings = "noise_setting";
inline constexpr const char* kWordCondition = "word";

/// What curves over a setting are weighed by.
struct FamilyPlan {
  NoisePlan noise;  ///< carrier, scale, repeatability
  NoiseWeighting weighting;
  bool is_fm = false;                ///< residual FM in the audio range counts
  std::string in_use;                ///< name of the setting; empty = the first
  std::optional<double> full_range;  ///< of the setting, in its own unit: what 100 % is
  std::optional<Limit> limit;
};

FamilyPlan family_plan(const Evidence& evidence);
nlohmann::json usual_family_settings();
std::string check_family_settings(const nlohmann::json& test_settings);
std::vector<SettingField> family_setting_fields();
std::string family_setting_words(const Evidence& evidence);
LimitField family_limit(const Evidence& evidence);
std::string weighting_words(const FamilyPlan& plan);  ///< "neighbour at 20 kHz"
std::string weighting_unit(const FamilyPlan& plan);   ///< of its level

/// "1 mA" of "1 mA, 100 kHz span"; "1 mA before" of "1 mA, before".
std::string setting_of_step(const std::string& label);
bool is_unmodified(const std::string& setting);

}  // namespace heron
