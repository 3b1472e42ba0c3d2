#pragma once

#include <complex>
#include <optional>

namespace heron {

/// A charge-pump loop with a passive filter: C1 across the pump, R2 and C2 in series beside it, R3
/// and C3 towards the oscillator if they are there.
struct LoopDesign {
  double charge_pump_a = 1e-3;
  double kvco_hz_per_v = 30e6;
  double n = 144.0;
  double r2_ohm = 560.0;
  double c1_f = 1e-9;
  double c2_f = 22e-9;
  double r3_ohm = 0.0;
  double c3_f = 0.0;
  std::optional<double> reference_hz = std::nullopt;
  bool has_third_pole() const { return r3_ohm > 0.0 && c3_f > 0.0; }
};

/// From the pump's current to the voltage at the oscillator, ohm.
std::complex<double> filter_impedance(const LoopDesign& loop, double hz);
/// Open loop G = Icp Kvco Z / (N s); with Kvco in Hz/V and s in rad/s the two 2 pi cancel.
std::complex<double> open_loop(const LoopDesign& loop, double hz);
/// G / (1 + G): 0 dB at 0 Hz.
std::complex<double> closed_loop(const LoopDesign& loop, double hz);

/// What a loop does. Where the phase margin is not above 0 it does not lock, and the closed loop is
/// not told.
struct LoopFigures {
  double crossover_hz = 0.0;
  double phase_margin_deg = 0.0;
  std::optional<double> peaking_db = std::nullopt;
  std::optional<double> peaking_hz = std::nullopt;
  std::optional<double> closed_loop_3db_hz = std::nullopt;  ///< the last fall through -3.01 dB
  bool is_stable() const { return phase_margin_deg > 0.0; }
};
/// Crossover and phase margin alone. InputError for a part that is not above 0.
LoopFigures loop_margin(const LoopDesign& loop);
/// With what the closed loop does. Example: 1 mA, 30 MHz/V, N = 144, 560 ohm, 1 nF,
/// 22 nF: crossover 20.84 kHz, phase margin 54.2 degrees.
LoopFigures loop_figures(const LoopDesign& loop);

}  // namespace heron
