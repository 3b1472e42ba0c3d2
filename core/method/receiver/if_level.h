#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "core/method/analysis.h"
#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

/// The carrier in a recording of a receiver's IF, re a full-scale sinusoid; twice where the level
/// was lowered while it was recorded.
struct IfLevel : Analysis {
  std::string name;
  double length_s = 0.0;
  double tone_hz = 0.0;  ///< in the recording
  double dbfs = 0.0;
  double u_db = 0.0;  ///< standard, by its scatter
  std::optional<double> lower_dbfs = std::nullopt;
  double peak_dbfs = -200.0;
  std::int64_t clipped = 0;
  std::optional<RecorderLoad> load() const override { return RecorderLoad{peak_dbfs, clipped}; }
};

inline constexpr const char* kIfLevelFormat = "even-heron-if-level";

/// InputError for less than a second, or where no carrier stands out; Cancelled.
IfLevel if_level(const CaptureOpener& open, const Progress& progress = {},
                 const std::stop_token& stop = {});
nlohmann::json to_json(const IfLevel& level);
/// InputError if damaged.
AnalysisPtr read_if_level(const nlohmann::json& record);

}  // namespace heron
