#pragma once

#include <optional>
#include <vector>

#include "core/judge/verdict.h"
#include "core/method/frequency/drift_fit.h"
#include "core/method/frequency/drift_settings.h"
#include "core/method/measure/reference_error.h"

namespace heron {

/// What the drift comes to on one band.
struct DriftBand {
  double frequency_hz = 0.0;
  double start_hz = 0.0;          ///< of the curve, at the first reading
  std::optional<Figure> settled;  ///< Hz
  double wander_hz = 0.0;         ///< from lowest to highest once settled
  std::optional<Judgement> judgement;
};

/// A drift record against what is asked: where it settles, when, and what moves it.
/// Example: 10 MHz, 40 Hz exp(-t/600 s) - 2 Hz, settled within 0.5 ppm of where it ends: -0.2 ppm,
/// after 600 s ln(40 / 5) = 20.8 min; on 432 MHz -86 Hz.
struct Drift {
  DriftRecord record;
  DriftFit fit;
  double relative_to_hz = 0.0;          ///< errors are relative to it
  std::vector<Series::Sample> medians;  ///< of the readings that count, ppm over seconds
  std::optional<Figure> error;          ///< ppm, once settled; without a known source not judged
  std::optional<Judgement> judgement;
  std::optional<Figure> settle;  ///< min
  std::optional<Judgement> settle_judgement;
  double settle_middle_ppm = 0.0;    ///< of the width that it has to stay in
  std::optional<Figure> per_kelvin;  ///< ppm/K
  std::optional<Judgement> kelvin_judgement;
  std::vector<DriftBand> bands;  ///< without any the one that was read
  std::vector<Remark> remarks;
  bool is_known = false;  ///< how far off the source may be
  double to_ppm(double hz) const { return relative_to_hz > 0.0 ? hz / relative_to_hz * 1e6 : 0.0; }
};

Drift assess_drift(const Evidence& evidence);

}  // namespace heron
