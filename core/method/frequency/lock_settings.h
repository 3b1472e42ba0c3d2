#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/frequency/lock_margin.h"
#include "core/method/method.h"

namespace heron {

inline constexpr const char* kLockSettings = "lock";
inline constexpr const char* kAttenuation = "attenuation";  ///< condition, dB
inline constexpr const char* kLockStateReading = "lock_state";
inline constexpr const char* kScatterReading = "scatter";  ///< Hz

/// What a lock run is judged by.
struct LockPlan {
  std::optional<double> nominal_hz;
  std::optional<double> source_dbm;  ///< at the reference input, without added attenuation
  double u_source_db = 0.3;          ///< standard
  /// What lies between the source and the reference input, where that is how the level is known.
  struct Part {
    std::string name;
    double gain_db = 0.0;
  };
  std::optional<double> output_dbm;  ///< of the source itself
  std::vector<Part> between;
  bool is_level_planned = false;     ///< `source_dbm` follows from them
  std::optional<double> lowest_dbm;  ///< of the input window, as the maker says
  std::optional<double> highest_dbm;
  std::optional<double> offset_hz;  ///< that the internal oscillator was set off by for the run
  bool is_restored = false;
  bool shares_source = false;        ///< counter and device hang on the same reference
  double most_sideband_dbc = -40.0;  ///< of a tone that is held
  std::optional<double> held_hz;     ///< held within so much; else a tenth of the offset
  LockNeed need;
};

/// One step as it was read.
struct LockReading {
  std::string label;
  std::optional<double> attenuation_db;
  std::optional<double> offset_hz;                    ///< mean of what was counted, less nominal
  std::optional<double> scatter_hz;                   ///< standard deviation of several, or typed
  std::optional<double> tone_hz;                      ///< mean of a recording's, in place of counts
  std::optional<double> sideband_dbc = std::nullopt;  ///< of that tone
  std::size_t counts = 0;
  std::optional<LockState> state;  ///< by eye or ear, else by the counter
  bool is_by_hand = false;
  std::string refusal;  ///< why it cannot be used
};

LockPlan lock_plan(const Evidence& evidence);
/// In the order of the steps. By the counter: lost where it is further off than `held_hz`,
/// disturbed where its scatter is five times that of the strongest reference. By the tone of a
/// receiver likewise, from where the tone is at the strongest reference; disturbed with sidebands,
/// too.
std::vector<LockReading> lock_readings(const Evidence& evidence, const LockPlan& plan);

nlohmann::json usual_lock_settings();
std::string check_lock_settings(const nlohmann::json& test_settings);
std::vector<SettingField> lock_setting_fields();
std::string lock_setting_words(const Evidence& evidence);
std::vector<TypedField> lock_fields();
std::string lock_state_word(LockState state);  ///< "held"

}  // namespace heron
