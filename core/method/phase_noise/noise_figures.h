#pragma once

#include "core/method/phase_noise/noise_integral.h"
#include "core/method/phase_noise/noise_settings.h"

namespace heron {

/// What all levels may be off by beyond their own scatter, in a figure that moves by `per_db` for
/// one decibel.
void add_level_uncertainty(Figure& figure, double per_db, const NoisePlan& plan);

/// L at one offset of a curve, dBc/Hz.
Figure level_figure(const CurvePoint& point, const NoisePlan& plan);
Figure rms_figure(const NoiseIntegral& integral, const NoisePlan& plan);          ///< degrees
Figure residual_fm_figure(const NoiseIntegral& integral, const NoisePlan& plan);  ///< Hz RMS

}  // namespace heron
