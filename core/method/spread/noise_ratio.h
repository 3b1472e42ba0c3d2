#pragma once

#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "core/method/measure/band_power.h"
#include "core/method/measure/measured_part.h"
#include "core/method/measure/recorder_linearity.h"
#include "core/method/result.h"
#include "core/signal/sideband.h"

namespace heron {

struct NoiseRatioSettings {
  double carrier_hz = 0.0;  ///< suppressed carrier, capture frequency
  Sideband sideband = Sideband::upper;
  std::pair<double, double> band_hz{300.0, 2700.0};    ///< audio, as it was played
  std::pair<double, double> notch_hz{1250.0, 1750.0};  ///< audio, as it was played
  std::optional<TimeSpan> part;  ///< measure this; else the steadiest long keyed part
  unsigned threads = 0;
  std::size_t plot_points = 4096;
};

/// Noise power ratio: density in the pass band over density in the notch, dB.
struct NoiseRatioAnalysis {
  std::string input;
  CaptureInfo capture;
  double rbw_hz = 0.0;
  std::size_t averages = 0;
  std::int64_t clipped_samples = 0;
  std::optional<double> ratio_db;  ///< nullopt where no noise band was found
  double u_db = 0.0;
  RecorderLinearity linearity{0.0, false, false};  ///< of the ratio
  bool is_bound = false;            ///< at least this: the recording's own floor fills the notch
  double density_dbfs_hz = -400.0;  ///< in the pass band
  double floor_dbfs_hz = -400.0;    ///< of the recording, beside the signal
  Curve average;
  std::vector<Remark> remarks;
};

inline constexpr const char* kNoisePowerRatio = "pass band over notch";

/// The notch and the pass band lie where the played signal put them; a tenth of each is left out
/// at its edges, where filters ring. InputError: unreadable, too short, a band outside the
/// recording.
NoiseRatioAnalysis analyse_notched_noise(const CaptureOpener& open,
                                         const NoiseRatioSettings& settings,
                                         const Progress& progress = {},
                                         const std::stop_token& stop = {});
/// The same of a part that is found or chosen already.
NoiseRatioAnalysis analyse_notched_noise(const MeasuredPart& part,
                                         const NoiseRatioSettings& settings,
                                         const Progress& progress = {},
                                         const std::stop_token& stop = {});
Result to_result(const NoiseRatioAnalysis& analysis);

/// Why two tones and noise give different figures, in a sentence.
std::string noise_against_tones();

}  // namespace heron
