#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/measure/measured_part.h"
#include "core/method/measure/recorder_linearity.h"
#include "core/method/result.h"
#include "core/signal/sideband.h"

namespace heron {

struct SsbSettings {
  double carrier_hz = 0.0;           ///< suppressed carrier, capture frequency
  std::vector<double> tones_hz;      ///< audio, one or two; empty = the one or two strongest lines
  std::optional<Sideband> sideband;  ///< default: the side on which the tones are stronger
  std::optional<TimeSpan> part;      ///< measure this; else the steadiest long keyed part
  std::optional<double> linearity_u_db;  ///< of the recorder's ratios; 0 leaves it out
  unsigned threads = 0;
};

/// What a single-sideband transmitter should not send. Levels are re one tone; against PEP they
/// are lower by `pep_over_tone_db` (0 for one tone, 6.02 for two equal ones).
struct SsbSuppression {
  std::string input;
  Sideband sideband = Sideband::upper;
  std::vector<double> tones_hz;  ///< audio, as found
  double pep_over_tone_db = 0.0;
  struct Unwanted {
    std::string id;  ///< "carrier", "opposite_1"
    std::string label;
    double frequency_hz = 0.0;
    double level_dbc = 0.0;
    double u_db = 0.0;
    bool is_bound = false;
  };
  RecorderLinearity linearity;
  std::vector<Unwanted> unwanted;  ///< the carrier, and the opposite side of each tone
  std::vector<Remark> remarks;
};

/// From a recording of one or two tones. Without tones: a fault remark and nothing else.
SsbSuppression measure_ssb_suppression(const CaptureOpener& open, const SsbSettings& settings,
                                       const Progress& progress = {},
                                       const std::stop_token& stop = {});
/// Each unwanted line re one tone and re PEP, both named.
Result to_result(const SsbSuppression& analysis);

}  // namespace heron
