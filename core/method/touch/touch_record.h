#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/analysis.h"

namespace heron {

/// Power beside a carrier over time, dB re all of it: frame after frame from -`side` to +`side`
/// bins. A line reads its level where it stands on a bin, noise what passes `rbw_hz`; NaN where the
/// carrier was lost.
struct TouchBand {
  double bin_hz = 0.0;
  double rbw_hz = 0.0;
  int side = 0;
  std::vector<float> dbc;
  std::size_t width() const { return 2 * static_cast<std::size_t>(side) + 1; }
  float at(std::size_t frame, int bin) const {
    return dbc[frame * width() + static_cast<std::size_t>(bin + side)];
  }
  double reach_hz() const { return bin_hz * side; }
};

/// What one recording says to a touch test: near the carrier with a narrow filter, further out with
/// a wide one.
struct TouchRecord : Analysis {
  std::string name;
  double length_s = 0.0;
  double frame_s = 0.0;  ///< each frame is the mean of so long
  double first_s = 0.0;  ///< the middle of the first
  std::size_t frames = 0;
  double spectra = 2.0;  ///< independent ones in a frame, of each side
  TouchBand near;
  TouchBand far;  ///< `side` 0 where the recording is too narrow for it
  std::optional<double> rf_hz = std::nullopt;
  std::optional<double> level_dbfs = std::nullopt;
  std::vector<Remark> remarks = {};

  double time_s(std::size_t frame) const { return first_s + frame_s * static_cast<double>(frame); }
  /// Frames whose middles lie between two times: from, and behind the last.
  std::pair<std::size_t, std::size_t> frames_in(double from_s, double to_s) const;
  /// The narrower one that reaches so far.
  const TouchBand& band_for(double span_hz) const;
};

inline constexpr const char* kTouchFormat = "even-heron-touch-test";

nlohmann::json to_json(const TouchRecord& record);
/// InputError if damaged.
AnalysisPtr read_touch_record(const nlohmann::json& record);

}  // namespace heron
