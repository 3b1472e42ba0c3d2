#pragma once

#include <cstdint>
#include <string>
#include <vector>

#include "core/signal/capture.h"

namespace heron::demo {

/// One invented step of a transmitter's ladder: what its recording shall contain.
struct RecordedStep {
  std::string label;
  double watts_pep = 0.0;
  std::vector<double> products_dbc;  ///< IM3, IM5, IM7, IM9 re one tone, mean of both sides
};

struct RecordingConditions {
  double full_scale_watts_pep = 62.0;  ///< output that would just fill the recorder
  double center_hz = 14.2e6;
  double noise_dbfs = -35.0;
  double carrier_dbc = -47.0;
  double upper_memory_db = 1.2;
  double seconds = 12.0;
  std::string recorded_at;
};

/// A 48 kHz, 16-bit I/Q recording of 650 + 1850 Hz above the carrier at 0 Hz.
CaptureOpener record_step(const RecordedStep& step, const RecordingConditions& conditions,
                          std::uint64_t seed);

}  // namespace heron::demo
