#pragma once

#include <string>
#include <vector>

#include "core/method/measure/loop.h"

namespace heron {

/// What makes noise in a loop, told at the oscillator's own frequency; levels in dBc/Hz.
struct LoopNoiseDesign {
  double oscillator_hz = 1440e6;
  double oscillator_dbc = -117.0;  ///< free running, at 100 kHz
  double oscillator_corner_hz = 2500.0;
  double oscillator_floor_dbc = -152.0;
  double detector_floor = -219.5;    ///< at 1 Hz: + 20 lg N + 10 lg f_ref
  double detector_flicker = -120.5;  ///< at 10 kHz of 1 GHz
  /// How the detector's floor depends on the current: a + b over it in mA.
  double detector_constant = 0.45;
  double detector_per_ma = 0.55;
  double reference_hz = 10e6;
  /// Of the reference at its own frequency: white, and over f, f^2, f^3 at 1 Hz.
  double reference_dbc[4] = {-156.0, -122.0, -99.5, -86.0};
  double pushing_hz_per_v = 1.5e6;
  double supply_v_rt_hz = 0.43e-6;
  double supply_corner_hz = 900.0;
  double supply_rolloff_hz = 420e3;
  double series_ohm = 10.0;  ///< of the supply's filter; 0 = there is none
  double bulk_f = 22e-6;
  double bulk_esr_ohm = 0.25;
  double temperature_k = 290.0;
};

/// Each contributor at an offset, as power in 1/Hz: half of its density of phase.
struct LoopNoise {
  double oscillator = 0.0;
  double detector = 0.0;
  double reference = 0.0;
  double resistors = 0.0;
  double supply = 0.0;
  double total() const { return oscillator + detector + reference + resistors + supply; }
  double total_dbc() const;
};
LoopNoise loop_noise(const LoopDesign& loop, const LoopNoiseDesign& noise, double offset_hz);

/// What a supply's filter leaves of its noise: series resistor, bulk capacitor with its own ESR.
double supply_filter(const LoopNoiseDesign& noise, double hz);

}  // namespace heron
