#pragma once

#include <string>
#include <vector>

#include "core/method/amplifier/gain_case.h"
#include "core/method/result.h"

namespace heron {

inline constexpr const char* kGainView = "Gain";
inline constexpr const char* kHeatView = "Heat";
inline constexpr const char* kHarmonicsView = "Harmonics";

/// Output over drive with what was expected and what it is compared with, gain and efficiency
/// below; heat and current; harmonics where they were read. `note` is what holds for all of it.
std::vector<Plot> gain_plots(const GainCase& of, const std::string& note,
                             const std::string& empty_words);

}  // namespace heron
