#pragma once

#include "core/method/result.h"
#include "core/method/two_tone/two_tone_take.h"

namespace heron {

inline constexpr const char* kSpectrumView = "Spectrum";
inline constexpr const char* kOverPowerView = "Over power";

/// The spectrum of each step that has one, with a pennant at every product; then what stands where
/// there is none.
std::vector<Plot> spectrum_plots(const TwoToneTake& take);

/// Every order over output power, with the limit, where the strongest order changes, what is worth
/// a word, the ceiling, and the band that a driven amplifier makes of it.
Plot over_power_plot(const TwoToneTake& take);

}  // namespace heron
