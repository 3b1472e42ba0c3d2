#pragma once

#include <cmath>
#include <random>
#include <string>
#include <vector>

#include "core/method/amplifier/amplifier.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"

namespace heron::testing {

/// An amplifier that is known exactly: soft compression (Rapp), current as the root of its output.
struct MadeAmplifier {
  double gain_db = 14.4;
  double corner_dbm = 33.4;
  double sharpness = 3.0;
  double idle_a = 0.5;
  double slope_a = 0.534;

  double down_db(double in) const {
    return 10.0 / sharpness *
           std::log10(1.0 + std::pow(10.0, sharpness * (in - corner_dbm) / 10.0));
  }
  double output_dbm(double in) const { return in + gain_db - down_db(in); }
  double amperes(double out_dbm) const {
    return idle_a + slope_a * std::sqrt(to_watt(Dbm{out_dbm}).value);
  }
  /// Drive at which it is down by so much.
  double drive_at(double down) const {
    return corner_dbm +
           10.0 / sharpness * std::log10(std::pow(10.0, sharpness * down / 10.0) - 1.0);
  }
};

inline Figure made_level(double dbm, const char* source, double u_common, double u_reading) {
  Figure f;
  f.unit = "dBm";
  f.value = dbm;
  f.contributions = {{source, u_common, Scope::common},
                     {"one reading", u_reading, Scope::independent}};
  return f;
}

inline Figure made_plain(double value, const char* unit, double u = 0.0) {
  Figure f;
  f.unit = unit;
  f.value = value;
  if (u > 0.0) f.contributions = {{"meter", u, Scope::common}};
  return f;
}

/// Drives of an amplifier as they are read, with these errors.
inline DrivenStep made_step(const MadeAmplifier& amplifier, double in_dbm, double u_reading = 0.0,
                            std::mt19937* random = nullptr, double in_error = 0.0,
                            double out_error = 0.0, double u_common = 0.1) {
  NormalNumbers<double> gauss(0.0, 1.0);
  const auto noise = [&] { return random != nullptr ? u_reading * gauss(*random) : 0.0; };
  DrivenStep s;
  s.label = std::to_string(in_dbm) + " dBm";
  s.frequency_hz = 1296.2e6;
  s.input_before = made_level(in_dbm + in_error + noise(), "drive level", u_common, u_reading);
  s.output = made_level(amplifier.output_dbm(in_dbm) + out_error + noise(), "output level",
                        u_common, u_reading);
  return s;
}

}  // namespace heron::testing
