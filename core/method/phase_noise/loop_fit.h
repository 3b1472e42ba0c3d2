#pragma once

#include <span>

#include "core/method/phase_noise/loop_text.h"
#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// A measured curve and the current it was taken at.
struct MeasuredLoop {
  double current_a = 1e-3;
  const NoiseCurve* curve = nullptr;
};

/// VCO gain and R2 by least squares over measured curves, each as a factor of what was typed, with
/// the standard uncertainty of its logarithm, and how far the two move together.
struct LoopFit {
  double gain_factor = 1.0;
  double u_gain = 0.0;
  double r2_factor = 1.0;
  double u_r2 = 0.0;
  double correlation = 0.0;
  double u_product = 0.0;  ///< relative, of gain times R2
  double residual_db = 0.0;
};
/// nullopt with fewer than three curves, or where it does not settle. `repeats_db` is what is left
/// between curves of the same.
std::optional<LoopFit> fit_loop(const LoopParts& built, std::span<const MeasuredLoop> measured,
                                double repeats_db);

/// Told for the multiplied frequency, dBc/Hz.
double loop_level(const LoopParts& parts, double current_a, double hz);

}  // namespace heron
