#pragma once

#include "core/method/method.h"
#include "core/method/receiver/receiver_step.h"
#include "core/method/receiver/sensitivity.h"

namespace heron {

inline constexpr const char* kSensitivitySettings = "sensitivity";
inline constexpr const char* kInputReading = "input";
inline constexpr const char* kAudioOff = "audio_off";
inline constexpr const char* kAudioOn = "audio_on";
inline constexpr const char* kAudioHalf = "audio_half";
inline constexpr const char* kAudioZero = "audio_zero";
inline constexpr const char* kBirdie = "birdie";
inline constexpr const char* kSpecifiedSensitivity = "specified";
inline constexpr const char* kReceiverDial = "dial";
inline constexpr const char* kRightAxis = "right_axis";

/// Where the signal goes in, and what that does to a level that is stated for 50 ohm.
struct InjectionPoint {
  std::string place;      ///< "antenna socket"
  std::string impedance;  ///< "50 \u03a9", "high", "unknown"
  double shift_db = 0.0;  ///< the voltage there over the matched one
  double u_db = 0.0;      ///< standard, of that
  std::string id;         ///< points are alike only with the same one
};

/// What was set for a whole test.
struct ReceiverPlan {
  SensitivityPlan sensitivity;
  InjectionPoint point;
  std::optional<double> bandwidth_hz;
  double u_level_db = 0.45;  ///< standard, of the generator where no hook-up says it
  bool reads_db = false;     ///< audio is read in dB
  bool is_ten_db = false;    ///< the level is set to 10 dB
  std::string mode;
  double depth = 30.0;  ///< of the modulation, %, in AM
  double modulation_hz = 1000.0;
  std::optional<double> generator_ppm;  ///< limit of its frequency's error
  std::optional<double> dial_step_hz;
  double listen_s = 4.0;   ///< to each state, live
  std::string right_axis;  ///< of the plot: "pd", "emf" or "nf"
  /// The tone is the carrier itself: it tells the dial, and with the bandwidth the noise figure.
  bool hears_carrier() const { return mode == "SSB" || mode == "CW"; }
};
ReceiverPlan receiver_plan(const Evidence& evidence);

std::vector<TypedField> sensitivity_fields();
std::vector<SettingField> sensitivity_setting_fields();
nlohmann::json usual_sensitivity_settings();
std::string sensitivity_setting_words(const Evidence& evidence);
std::string check_sensitivity_settings(const nlohmann::json& settings);
std::string_view bare_receiver_unit(const TypedField& field, const nlohmann::json& settings);
LimitField sensitivity_limit(const Evidence& evidence);

}  // namespace heron
