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

/// What can be wished for.
struct TakingRange {
  double least = 0.0;
  double most = 0.0;
  bool holds(double value) const { return value >= least && value <= most; }
};
inline constexpr TakingRange kTakenLengthS{0.1, 600.0};
inline constexpr TakingRange kTakenRateHz{8e3, 20e6};
inline constexpr TakingRange kTakenSettleS{0.0, 60.0};
inline constexpr TakingRange kTakenDriveDbm{-80.0, 20.0};
inline constexpr double kMostTakenFrames = 16.0 * 1024.0 * 1024.0;

/// A wish out of its range is none: a file from elsewhere must not key for hours.
TakingSettings taking_settings_from_json(const nlohmann::json& settings);
/// `settings` with these in them.
nlohmann::json with_taking_settings(nlohmann::json settings, const TakingSettings& taking);

}  // namespace heron
