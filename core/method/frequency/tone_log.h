#pragma once

#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/analysis.h"
#include "core/method/frequency/tone_sidebands.h"
#include "core/method/method.h"

namespace heron {

/// The tone of a recording, second after second (heard_tone.h).
struct ToneLog : Analysis {
  std::string started_at;       ///< UTC, ISO 8601, where the recording knows it
  std::vector<double> seconds;  ///< middle of each part, since it was begun
  std::vector<double> tone_hz;
  std::vector<double> u_hz;
  std::optional<ToneSideband> sideband = std::nullopt;  ///< the strongest of all of it
  std::vector<Remark> remarks;
};

inline constexpr const char* kToneLogFormat = "even-heron-tone-log";

/// Parts of a second, or longer where that would be too many. InputError where no tone stands out.
nlohmann::json analyse_tone_log(const CaptureOpener& open, std::optional<double> near_hz,
                                const Progress& progress, const std::stop_token& stop);
/// InputError if damaged.
AnalysisPtr read_tone_log(const nlohmann::json& record);

}  // namespace heron
