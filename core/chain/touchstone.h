#pragma once

#include <complex>
#include <string>
#include <string_view>
#include <vector>

#include "core/chain/gain.h"

namespace heron {

/// S parameters of a two-port at one frequency.
struct TwoPort {
  double frequency_hz = 0.0;
  std::complex<double> s11, s21, s12, s22;
};

/// A two-port network file, Touchstone 1.x or 2.0: DB, MA or RI, any frequency unit.
struct Touchstone {
  std::vector<TwoPort> points;  ///< in rising order of frequency
  double reference_ohm = 50.0;
  Gain gain(const std::string& subject) const;  ///< 20 lg |S21|
  /// The same network in a system of another impedance.
  Touchstone referred_to(double ohm) const;
  /// VSWR seen at a port, the other terminated in the reference; the table's nearest point.
  double input_vswr(double frequency_hz) const;
  double output_vswr(double frequency_hz) const;
};

/// Reads the text of a file called `name`. InputError with the line: not S parameters, not a
/// two-port, a number that is none, frequencies that do not rise, fewer numbers than promised.
Touchstone parse_touchstone(std::string_view text, const std::string& name);

}  // namespace heron
