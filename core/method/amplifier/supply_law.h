#pragma once

#include <optional>
#include <span>

#include "core/quantity/figure.h"

namespace heron {

/// Current that a stage draws at an output.
struct DrawnCurrent {
  double output_w = 0.0;
  double amperes = 0.0;
  double u_amperes = 0.0;
};

/// Current against output power, I = I0 + k sqrt(P): the mean of the half sines that a stage biased
/// near cut-off draws grows with output voltage (any textbook of class B). Least squares.
/// Example: 0.8 A without drive and 4.42 A at 53.9 W make k = 0.493 A per square root of W, and
/// 4.62 A at 60 W.
struct CurrentLaw {
  double idle_a = 0.0;
  double slope_a = 0.0;  ///< per square root of W
  double least_w = 0.0;  ///< it was seen from here
  double most_w = 0.0;   ///< to here

  /// Standard uncertainty: of the readings, of how far they lie off the law, and growing with the
  /// way beyond the highest of them.
  Figure at(double output_w) const;
  /// Output at which it draws so much; 0 where it always does.
  double output_at(double amperes) const;

  double u_idle_a = 0.0;
  double u_slope_a = 0.0;
  double covariance = 0.0;  ///< of both
  double scatter_a = 0.0;   ///< off the law
};

/// nullopt for fewer than two different outputs, or where current does not rise with them.
std::optional<CurrentLaw> current_law(std::span<const DrawnCurrent> drawn);

}  // namespace heron
