#pragma once

#include <nlohmann/json_fwd.hpp>
#include <optional>

namespace heron {

/// How the steps of a test are taken from live instruments; kept among the test's settings. What is
/// left out is the method's own.
struct TakingSettings {
  std::optional<double> length_s;  ///< of each recording
  std::optional<double> rate_hz;   ///< of its samples, I and Q
  std::optional<double> settle_s;  ///< between keying and looking
  double most_drive_dbm = -15.0;   ///< the generator is never set higher

  bool operator==(const TakingSettings&) const = default;
};

inline constexpr double kMostTakenFrames = 16.0 * 1024.0 * 1024.0;

/// InputError if they are damaged.
TakingSettings taking_settings_from_json(const nlohmann::json& settings);
/// `settings` with these in them.
nlohmann::json with_taking_settings(nlohmann::json settings, const TakingSettings& taking);

}  // namespace heron
