#pragma once

#include "core/method/method.h"
#include "core/method/phase_noise/reciprocal.h"

namespace heron {

inline constexpr const char* kReciprocalSettings = "reciprocal";

/// A weak signal beside a strong one, as somebody typed it.
struct ReciprocalPlan {
  std::optional<double> interferer_dbm;
  std::optional<double> mds_dbm;
  double u_mds_db = 0.5;  ///< standard
  double bandwidth_hz = 500.0;
  double offset_hz = 20e3;
  std::optional<Limit> limit;  ///< dB lost, at most
  double limit_db() const { return limit ? limit->value : 6.0; }
};

ReciprocalPlan reciprocal_plan(const Evidence& evidence);
nlohmann::json usual_reciprocal_settings();
std::string check_reciprocal_settings(const nlohmann::json& test_settings);
std::vector<SettingField> reciprocal_setting_fields();
std::string reciprocal_setting_words(const Evidence& evidence);
LimitField reciprocal_limit(const Evidence& evidence);

}  // namespace heron
