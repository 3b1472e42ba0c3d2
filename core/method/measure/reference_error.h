#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/quantity/figure.h"

namespace heron {

inline constexpr double kPerMillion = 1e6;

/// How far off an oscillator is, relative to nominal: y = (f - f0) / f0, in ppm; at a band it makes
/// y times its frequency. Negative: the oscillator is low, a receiver's dial reads high.
/// Example: 19 999 993.6 Hz at a nominal 20 MHz, gate 1 s: -0.32 ppm; at 14 MHz -4.5 Hz.

/// A counter as it was set: resolution +-1 count of the gate, and how far its timebase may be off
/// (both rectangular), with what it may have aged since it was calibrated.
struct CounterSetting {
  double gate_s = 1.0;
  std::optional<double> timebase_ppm;  ///< limit when it was calibrated; nullopt = not known
  double ageing_ppm_per_year = 0.0;
  double years = 0.0;
};
std::vector<Contribution> counter_contributions(const CounterSetting& counter, double nominal_hz);

/// Error in ppm of what a counter read.
Figure counted_error(double measured_hz, double nominal_hz, const CounterSetting& counter);

/// A carrier of known frequency heard beside a dial: upper sideband dial + tone, lower dial - tone.
struct BeatNote {
  double carrier_hz = 0.0;
  double dial_hz = 0.0;
  double tone_hz = 0.0;
  bool is_upper = true;
  double u_tone_hz = 0.0;
  double u_carrier_ppm = 0.0;  ///< of the station or generator
  double dial_step_hz = 0.0;   ///< rectangular, half of it to each side
};
/// Dial error carrier - dial - tone (lower sideband: + tone) as ppm of the carrier: positive, the
/// receiver's oscillators are high and the dial reads low.
Figure beat_error(const BeatNote& beat);
double beat_error_hz(const BeatNote& beat);

struct BandError {
  double frequency_hz = 0.0;
  double error_hz = 0.0;
  double u_hz = 0.0;
};
/// The same as a figure, with what it is made of; and a limit in ppm there.
Figure error_on_band(const Figure& error_ppm, double frequency_hz);
/// A band's error in Hz as ppm of its frequency.
Figure relative_error(const Figure& error_hz, double frequency_hz);
Limit limit_on_band(Limit limit_ppm, double frequency_hz);
std::vector<BandError> errors_at(const Figure& error_ppm, const std::vector<double>& bands_hz);

/// Good enough: its standard uncertainty is a third of the tolerance at most.
bool is_sufficient(double u_ppm, double tolerance_ppm);

/// "oscillator low: the dial reads high"; within its U nothing can be said.
std::string error_words(const Figure& error_ppm);

}  // namespace heron
