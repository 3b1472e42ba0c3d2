#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/frequency/drift_record.h"
#include "core/method/method.h"

namespace heron {

inline constexpr const char* kDriftSettings = "drift";

/// What a drift record is judged by.
struct DriftPlan {
  DriftReference reference;
  std::optional<double> source_ppm;      ///< limit of the counter's timebase, or of the carrier
  double settle_ppm = 0.1;               ///< half the width that it has to settle into
  bool is_round_nominal = false;         ///< that width is round nominal, else where it settles
  std::optional<double> settle_limit_s;  ///< it has to be settled by then
  std::optional<Limit> limit;            ///< error once settled, within so many ppm
  std::optional<double> need_hz;         ///< on each band, within so much
  std::vector<double> bands_hz;
  double least_span_k = 5.0;  ///< of temperature, before it is judged
  std::optional<double> most_per_kelvin_ppm;
  double every_s = 10.0;  ///< of a live log
  double length_s = 5400.0;
};

DriftPlan drift_plan(const Evidence& evidence);
nlohmann::json usual_drift_settings();
std::string check_drift_settings(const nlohmann::json& test_settings);
std::vector<SettingField> drift_setting_fields();
std::string drift_setting_words(const Evidence& evidence);
/// What a bare number means; empty where it is not read.
std::string_view drift_bare_unit(const TypedField& field, const nlohmann::json& test_settings);
/// Time, frequency or tone, and temperature of a single reading.
std::vector<TypedField> drift_fields();

}  // namespace heron
