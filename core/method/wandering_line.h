#pragma once

#include "core/signal/welch.h"

namespace heron {

/// A line that may have drifted, or been modulated, during a recording.
struct WanderingLine {
  double frequency_hz = 0.0;  ///< the middle of it
  int half_width_bins = 0;    ///< holds all of it; kLineHalfWidth of a steady one
  double drift_hz = 0.0;      ///< from the first to the last part of the recording; 0 if to and fro
};

/// The strongest line of a spectrum. Wider than a steady one only if no gap parts what it holds:
/// two lines are never taken for one that moves.
WanderingLine strongest_line(const Spectrum& spectrum);

}  // namespace heron
