#pragma once

#include <vector>

#include "core/method/measure/line_power.h"
#include "core/method/measure/tone_finder.h"

namespace heron {

/// A line that may have drifted, or been modulated, during a recording.
struct WanderingLine {
  double frequency_hz = 0.0;  ///< the middle of it
  int half_width_bins = 0;    ///< holds all of it; kLineHalfWidth of a steady one
  double drift_hz = 0.0;      ///< from the first to the last part; 0 if to and fro

  bool is_steady() const { return half_width_bins == kLineHalfWidth; }
  /// Nearer to it nothing else is told from it.
  double reach_hz(double bin_hz) const { return 2.0 * half_width_bins * bin_hz; }
};

/// The strongest line of a spectrum. Wider than a steady one only if no gap parts what it holds:
/// two lines are never taken for one that moves.
WanderingLine strongest_line(const Spectrum& spectrum);

/// Of the lines that were found (strongest first) those that are not a part of a stronger one: of a
/// transmitter whose carrier wanders, all wander with it. The same where it does not.
std::vector<SpectralLine> lines_beside(const Spectrum& spectrum,
                                       const std::vector<SpectralLine>& found,
                                       const WanderingLine& carrier);

/// How wide one of them is measured: twice what the carrier takes, as the highest point of a
/// wandering line may be its end, but at most half of the way to the next.
int half_width_of(const SpectralLine& line, const std::vector<SpectralLine>& lines,
                  const WanderingLine& carrier, double bin_hz);

}  // namespace heron
