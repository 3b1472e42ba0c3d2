#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/method.h"

namespace heron {

inline constexpr const char* kNoiseSettings = "phase_noise";
inline constexpr int kNoisePerDecade = 20;

/// One point that somebody read off a screen.
struct TypedNoise {
  std::string state;  ///< what it is of: "before"; empty = the only one
  double offset_hz = 0.0;
  double l_dbc_hz = 0.0;
};

/// What a phase-noise test is told for and judged by.
struct NoisePlan {
  std::optional<double> scaled_hz;   ///< frequency that all is told for; else the highest carrier
  std::optional<double> carrier_hz;  ///< of what does not say its own
  std::optional<double> low_hz;      ///< counted from here
  std::optional<double> high_hz;     ///< to here
  double fm_low_hz = 300.0;          ///< of residual FM
  double fm_high_hz = 3000.0;
  std::optional<double> fm_limit_hz;
  double repeats_db = 0.2;  ///< standard: how well the same measured again agrees
  double scale_db = 0.2;    ///< standard: of all levels together
  bool shows_am = false;    ///< noise of the amplitude beside it
  std::vector<TypedNoise> typed;
  std::optional<Limit> limit;  ///< degrees RMS, at most
};

NoisePlan noise_plan(const Evidence& evidence);
nlohmann::json usual_noise_settings();
std::string check_noise_settings(const nlohmann::json& test_settings);
std::vector<SettingField> noise_setting_fields();
std::string noise_setting_words(const Evidence& evidence);
LimitField noise_limit(const Evidence& evidence);
/// What every test of phase noise is asked about its levels: frequency, scale, repeatability.
std::vector<SettingField> noise_level_fields();
void read_noise_levels(const nlohmann::json& own, NoisePlan& plan);

/// "before: 10 kHz -80 dBc/Hz", a line each; InputError with the line.
std::vector<TypedNoise> parse_typed_noise(const std::string& text);

}  // namespace heron
