#pragma once

#include <nlohmann/json.hpp>

#include "core/method/analysis.h"
#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// What one recording, trace or table says of phase noise.
struct NoiseRecord : Analysis {
  NoiseCurve curve;
  double rbw_hz = 0.0;  ///< of a trace; 0 = it is none
};

inline constexpr const char* kNoiseFormat = "even-heron-phase-noise";

nlohmann::json to_json(const NoiseRecord& record);
/// InputError if damaged.
AnalysisPtr read_noise_record(const nlohmann::json& record);

}  // namespace heron
