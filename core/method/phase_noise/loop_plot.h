#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/verdict.h"
#include "core/method/phase_noise/loop_text.h"
#include "core/method/phase_noise/noise_curve.h"
#include "core/method/result.h"

namespace heron {

/// One loop at one current.
struct LoopRow {
  std::string name;
  LoopParts parts;
  double current_a = 1e-3;
  bool is_tried = false;
  LoopFigures figures;
  Figure crossover;  ///< kHz
  Figure margin;     ///< degrees
  std::optional<Judgement> judgement;
  double level = 0.0;              ///< at the weighted offset, calculated
  std::optional<double> measured;  ///< there
  LoopDesign design() const {
    LoopDesign d = parts.design;
    d.charge_pump_a = current_a;
    return d;
  }
};

inline constexpr const char* kLoopNoiseView = "noise";
inline constexpr const char* kOpenLoopView = "loop";

/// Noise of one row over the offset, each contributor by itself, beside what was measured of it
/// (nullptr = nothing); of what is tried, beside one as built (nullptr = none), which was measured.
Plot loop_noise_plot(const std::vector<LoopRow>& rows, std::size_t which,
                     const NoiseCurve* measured, const LoopRow* built);
/// Open and closed loop of one row.
Plot open_loop_plot(const std::vector<LoopRow>& rows, std::size_t which);

}  // namespace heron
