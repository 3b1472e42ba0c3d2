#pragma once

#include <string>
#include <string_view>

#include "core/quantity/levels.h"

namespace heron {

/// What a numeric field asks for; the value is in the unit named here.
enum class Quantity {
  level,        ///< dBm, peak envelope
  power,        ///< W
  frequency,    ///< Hz
  duration,     ///< s
  gain,         ///< dB, negative for loss
  uncertainty,  ///< dB, the expanded one (k = 2)
  vswr,         ///< 1 and more
  impedance,    ///< ohm
  relative,     ///< ppm
  interval,     ///< months
  current,      ///< A
  voltage,      ///< V
  temperature,  ///< °C
  number,       ///< of a setting, without a unit
  limit         ///< dB below a reference, negative
};

/// What a typed text was understood as.
struct TypedQuantity {
  double value = 0.0;
  std::string understood;  ///< "= 44.91 dBm"; short, to stand behind the field
};

struct QuantityOptions {
  Ohm impedance = kReferenceImpedance;
  bool volts_are_emf = false;
  bool is_two_tone = false;
  std::string default_unit;  ///< taken for a bare number; empty = quantity_unit()
};

/// The unit in which the value is given, and which is taken when only a number is typed.
std::string quantity_unit(Quantity quantity);

/// Reads a text as people type it: any unit of the quantity, decimal comma, prefixes. A frequency
/// without a unit is in MHz. InputError naming two forms that work.
TypedQuantity parse_quantity(std::string_view text, Quantity quantity,
                             const QuantityOptions& options = {});

/// A value as it would be typed: "14.2 MHz", "+44.77 dBm", "0:12 min".
std::string quantity_text(Quantity quantity, double value);

/// "14.2 MHz", every digit that was given.
std::string frequency_text(double hertz);

/// "2:10 min", "45 s", "1:02:00 h".
std::string duration_text(double seconds);

}  // namespace heron
