#pragma once

#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/analysis.h"
#include "core/progress.h"
#include "core/signal/capture.h"

namespace heron {

/// A receiver's audio over some seconds, in a fine spectrum: dB re the square of a full-scale
/// sinusoid. Mains hum is known apart.
struct ReceiverAudio : Analysis {
  std::string name;
  double length_s = 0.0;
  double bin_hz = 0.0;
  std::vector<float> power_db;  ///< of each bin from 0 Hz on
  double peak_dbfs = -200.0;
  std::int64_t clipped = 0;
  std::optional<RecorderLoad> load() const override { return RecorderLoad{peak_dbfs, clipped}; }
};

inline constexpr const char* kReceiverAudioFormat = "even-heron-receiver-audio";

/// InputError for I and Q, or less than a second; Cancelled.
ReceiverAudio receiver_audio(const CaptureOpener& open, const Progress& progress = {},
                             const std::stop_token& stop = {});
nlohmann::json to_json(const ReceiverAudio& audio);
/// InputError if damaged.
AnalysisPtr read_receiver_audio(const nlohmann::json& record);

/// Noise alone and tone with noise, at the same volume.
struct HeardRatio {
  double sn_n_db = 0.0;
  double u_db = 0.0;               ///< standard, from how long was heard
  std::optional<double> sinad_db;  ///< of the tone; nullopt where none stands out
  std::optional<double> tone_hz;
  double bandwidth_hz = 0.0;  ///< noise bandwidth of the receiver, from the noise alone
  double hum_db = -300.0;     ///< left out: over the noise
  std::vector<Remark> remarks;
};
/// InputError where the two do not belong together.
HeardRatio heard_ratio(const ReceiverAudio& noise, const ReceiverAudio& signal);

}  // namespace heron
