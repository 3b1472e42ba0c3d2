#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/amplifier/amplifier.h"
#include "core/method/method.h"

namespace heron {

/// Where a level was read.
enum class ReadAt {
  device,       ///< all attenuation counted in
  power_meter,  ///< at the end of the hook-up, as are the next
  rms_volts,
  pp_volts
};

/// What is set for a test of an amplifier; defaults are a new test's.
struct GainSettings {
  std::optional<double> specified_gain_db;
  std::optional<double> rated_input_dbm;
  std::optional<double> rated_output_dbm;
  double linear_to_db = 1.0;
  bool is_in_watts = false;
  bool is_power_added = false;  ///< efficiency in the plot
  ReadAt read_at = ReadAt::device;
  std::optional<ReadAt> second_at;  ///< the output is read in this way too
  bool is_second_a_line = false;    ///< and that is one spectral line
  std::optional<double> meter_offset_db;
  double probe = 1.0;
  bool is_one_meter = false;
  double bypass_loss_db = 0.0;
  std::optional<double> nominal_v;
  std::optional<double> supply_limit_a;
  std::optional<double> input_expanded_db;  ///< U of the drive, where not the usual one
  std::optional<double> output_expanded_db;
  // Of steps that are keyed by the program.
  bool is_driven_by_transmitter = false;  ///< with a tone; else by a generator at that frequency
  std::optional<double> driver_gain_db;   ///< from the generator to the device
  bool reads_harmonics = false;
  std::optional<double> stop_down_db = 3.0;  ///< no step after one so far compressed
  std::optional<double> stop_sag_share = 0.1;
  std::optional<double> stop_harmonic_dbc;
};

inline constexpr const char* kGainSettings = "amplifier";

GainSettings gain_settings_from_json(const nlohmann::json& test_settings);
nlohmann::json usual_gain_settings();
std::string check_gain_settings(const nlohmann::json& test_settings);
std::vector<SettingField> gain_setting_fields();
/// "13 dB, 60 W".
std::string gain_setting_words(const Evidence& evidence);
/// What a bare number of a level means with these settings.
std::string_view bare_gain_unit(const TypedField& field, const nlohmann::json& test_settings);

AmplifierPlan amplifier_plan(const Evidence& evidence);

}  // namespace heron
