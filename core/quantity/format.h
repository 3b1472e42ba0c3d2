#pragma once

#include <string>

#include "core/quantity/figure.h"

namespace heron {

/// How many significant digits of U decide the rounding.
enum class Rounding {
  two_digits,  ///< always two: reports, files
  compact      ///< two if U begins with 1 or 2, else one: screens read from a metre away
};

struct FormattedFigure {
  std::string value;        ///< "-30.42" with a true minus sign (U+2212)
  std::string uncertainty;  ///< "0.70"; empty if the figure has none or is a bound
  std::string bound;        ///< "≤", "≥" or empty
  /// Value with its bound, without uncertainty: "≤ −48.4".
  std::string shown() const { return bound.empty() ? value : bound + " " + value; }
};

/// Fixed decimals with a true minus sign, below 0 rounded to tens, hundreds and so on; -0.0 becomes
/// 0.0. Non-finite gives a dash.
std::string number_text(double value, int decimals, bool plus_sign = false);

/// Decimals that show U with the wanted number of significant digits; below 0 for tens and above.
int decimals_for(double expanded_uncertainty, Rounding rounding);

/// Value rounded to its own expanded uncertainty; `fallback_decimals` where there is none.
FormattedFigure format_figure(const Figure& figure, Rounding rounding = Rounding::two_digits,
                              int fallback_decimals = 2, bool plus_sign = false);

/// "−30.42 ± 0.70 dB", "≤ −48.4 dB".
std::string figure_text(const Figure& figure, Rounding rounding = Rounding::two_digits);

/// As a table shows it, rounded for a screen and without its unit: "−30.4 ± 0.7".
std::string figure_cell(const Figure& figure, int fallback_decimals, bool plus_sign = false);

/// Engineering notation with a unit: 14.2 MHz, 650 Hz, 12.7 mV.
std::string engineering_text(double value, const std::string& unit, int significant = 4);

/// Its unit, with the convention in it where there is a shorter name for both: dB re carrier = dBc.
std::string short_unit(const Figure& figure);
/// What a difference of two such figures is in, and their ±: two levels differ by a ratio.
std::string difference_unit(const std::string& unit);

/// A number with its unit: "5 Hz", "0.7\u00b0".
std::string with_unit(const std::string& number, const std::string& unit);

std::string ordinal(int number);  ///< "3rd"

}  // namespace heron
