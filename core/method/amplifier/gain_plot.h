#pragma once

#include <vector>

#include "core/judge/mask.h"
#include "core/method/amplifier/amplifier.h"
#include "core/method/result.h"

namespace heron {

inline constexpr const char* kGainView = "Gain";
inline constexpr const char* kHeatView = "Heat";
inline constexpr const char* kHarmonicsView = "Harmonics";

/// How a series is drawn and told.
struct GainLook {
  bool is_in_watts = false;
  std::string note;                         ///< at the upper right: frequency, supply, temperatures
  std::string empty_words;                  ///< while nothing was read
  Mask mask;                                ///< of harmonics; none where it has no segments
  const Amplification* compared = nullptr;  ///< another one, drawn pale
  std::string compared_name = {};
};

/// Output over drive with what was expected, gain and efficiency below; heat and current; harmonics
/// where they were read.
std::vector<Plot> gain_plots(const Amplification& a, const AmplifierPlan& plan,
                             const GainLook& look);

/// A level as the sheet shows it: dBm, or W.
Figure level_as_shown(const Figure& dbm, bool is_in_watts);

/// Limit of harmonics of a row, dB re carrier; nullopt where the mask says nothing.
std::optional<double> harmonic_limit_dbc(const Mask& mask, const DrivenRow& row,
                                         std::optional<double> carrier_hz, int order);

}  // namespace heron
