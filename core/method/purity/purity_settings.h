#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/judge/mask.h"
#include "core/method/evidence.h"
#include "core/method/purity/purity_typed.h"

namespace heron {

/// How far beside the dial a transmitter puts a tone.
inline constexpr double kLeastToneHz = 100.0;
inline constexpr double kMostToneHz = 5000.0;

/// What a purity test is read and judged with; kept among the test's settings.
struct PurityTestSettings {
  double carrier_hz = 0.0;          ///< 0: that of the planned drive
  std::optional<Mask> mask;         ///< none: the generic one; an empty one judges nothing
  std::optional<double> power_dbm;  ///< of the carrier at the device, instead of the measured one
  std::string power_typed;
  bool is_same_gain = false;  ///< recordings without a full scale were taken on one gain
  double reading_u_db = 0.5;  ///< standard uncertainty of a level read off a screen
  std::vector<TypedLine> lines;
};

/// From the settings of a test; InputError if damaged.
PurityTestSettings purity_settings_from_json(const nlohmann::json& settings);
/// `settings` with these in them.
nlohmann::json with_purity_settings(nlohmann::json settings, const PurityTestSettings& purity);
nlohmann::json to_json(const std::vector<TypedLine>& lines);
std::vector<TypedLine> typed_lines_from_json(const nlohmann::json& lines);

/// The carrier: as it was set, else as planned, else in the 20 m band.
double purity_carrier_hz(const nlohmann::json& settings, const std::optional<Drive>& drive);
/// The mask in force: as it was set, else the generic one of the carrier.
Mask purity_mask(const Evidence& evidence);

}  // namespace heron
