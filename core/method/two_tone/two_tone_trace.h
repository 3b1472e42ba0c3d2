#pragma once

#include <optional>
#include <utility>

#include "core/method/two_tone/two_tone.h"
#include "core/signal/trace_csv.h"

namespace heron {

/// What stands for the window where an analyser's own filter did the work.
inline constexpr const char* kAnalyserWindow = "analyser";

struct TraceSettings {
  std::optional<std::pair<double, double>> tones_hz;  ///< radio frequencies; else found
  std::optional<double> carrier_hz;                   ///< suppressed carrier, radio frequency
  int highest_order = 11;
  double linearity_u_db = 0.0;  ///< how far the analyser's scale may bend between two lines
  /// Standard uncertainty of one peak read from the trace beyond its noise.
  double reading_u_db = 0.1;
};

/// Products from an analyser's trace: peaks at the tones' and products' places, interpolated with a
/// parabola in dB, which is exact for a Gaussian filter. Points wider apart than the filter widen
/// the uncertainty by what may have been missed. What stands less than 3 dB above the noise beside
/// it, or on the skirt of the filter round a tone, is a bound. Frequencies are kept relative to the
/// middle of the trace, whose radio frequency is `capture.center_hz`; 0 dBFS is 0 dBm.
TwoToneAnalysis analyse_trace(const SpectrumTrace& trace, const TraceSettings& settings = {});

}  // namespace heron
