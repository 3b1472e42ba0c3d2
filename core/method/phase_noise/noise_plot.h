#pragma once

#include "core/method/phase_noise/noise_compare.h"
#include "core/method/phase_noise/noise_states.h"
#include "core/method/result.h"

namespace heron {

/// L(f) of states over the offset, with lines, floor and the counted range; below it what changed.
Plot noise_plot(const NoiseStates& states, const NoiseComparison* comparison,
                std::pair<double, double> counted, bool shows_am);

/// A curve as a layer; the part of it that is a bound is drawn faint.
PlotLayer curve_layer(const NoiseCurve& curve, const std::string& name, int trace);
/// Its own scatter at 95 %.
PlotLayer scatter_band(const NoiseCurve& curve, int trace);
/// What an instrument adds, as what cannot be seen below it.
PlotLayer floor_layer(const NoiseCurve& floor, double low_hz, double high_hz);
/// "10 Hz to 1 MHz" as a whole number of decades.
std::pair<double, double> decades_round(double low_hz, double high_hz);
/// The strip of differences, with what each range says.
PlotPanel difference_panel(const NoiseComparison& comparison, const std::string& title,
                           int trace = 1);

}  // namespace heron
