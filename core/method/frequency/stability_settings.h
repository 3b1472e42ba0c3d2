#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/method/frequency/drift_record.h"
#include "core/method/frequency/stability.h"
#include "core/method/method.h"

namespace heron {

inline constexpr const char* kStabilitySettings = "stability";

struct StabilityPlan {
  DriftReference reference;
  Estimator estimator = Estimator::overlapping;
  std::optional<double> resolution_hz;  ///< of one reading; nullopt = its last digit
  double limit_from_s = 1.0;            ///< the limit holds for these averaging times
  double limit_to_s = 100.0;
  std::optional<Limit> limit;     ///< ppb
  std::optional<double> band_hz;  ///< at which the scatter is told in Hz
  double every_s = 1.0;           ///< of a live log
  double length_s = 3600.0;
};

/// Without a nominal frequency of its own that of the drift record, whose log it then uses too.
StabilityPlan stability_plan(const Evidence& evidence);
/// The readings: its own, or else those of the drift record in the same evaluation.
DriftRecord stability_record(const Evidence& evidence, const StabilityPlan& plan);
nlohmann::json usual_stability_settings();
std::string check_stability_settings(const nlohmann::json& test_settings);
std::vector<SettingField> stability_setting_fields();
std::string stability_setting_words(const Evidence& evidence);

}  // namespace heron
