#pragma once

#include <stop_token>
#include <vector>

#include "core/signal/capture.h"

namespace heron {

/// Frequencies of two tones at several moments of a recording.
struct ToneTrack {
  std::vector<double> f1_hz;
  std::vector<double> f2_hz;
  double u_f1_hz = 0.0;  ///< of the mean
  double u_f2_hz = 0.0;
  double middle_of(double a, double b) const;  ///< middle of the range of a f1 + b f2
  /// a f1 + b f2 at a fraction (0 to 1) of the record, straight between the moments.
  double at(double fraction, double a, double b) const;
  double range_of(double a, double b) const;  ///< peak-to-peak range of a f1 + b f2
};

/// Least-squares fits of both tones on up to `moments` short blocks spread over the record, each
/// started where the one before ended, so that a drift of some hertz is followed. The starts are
/// frequencies at the beginning of the record.
ToneTrack track_tones(const CaptureOpener& open, double f1_start_hz, double f2_start_hz,
                      std::size_t moments, const std::stop_token& stop = {});

}  // namespace heron
