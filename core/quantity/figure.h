#pragma once

#include <string>
#include <vector>

namespace heron {

/// An upper bound means "at most this": noise hides the true value.
enum class Bound { none, upper, lower };

/// Whether a contribution is the same for every step of a ladder on one hook-up, or drawn anew.
enum class Scope { common, independent };

/// One line of an uncertainty budget (GUM): sensitivity times standard uncertainty.
struct Contribution {
  std::string source;
  double u = 0.0;  ///< standard uncertainty in the figure's unit
  Scope scope = Scope::independent;
};

/// A result with its unit, its convention ("re one tone"), and where its uncertainty comes from.
struct Figure {
  std::string id;
  std::string label;
  double value = 0.0;
  std::string unit;
  std::string convention;
  std::vector<Contribution> contributions;
  Bound bound = Bound::none;

  double u() const;                              ///< root sum of squares
  double independent_u() const;                  ///< the same of what is drawn anew at each step
  double expanded() const { return 2.0 * u(); }  ///< U, k = 2
};

/// after - before. Common contributions cancel by source name; independent ones add in quadrature.
/// Of two bounds it says nothing: its uncertainty has no end.
Figure difference(const Figure& after, const Figure& before);

/// |d| <= 2 u_d, or one of the two was a bound that reaches across the other.
bool is_no_difference(const Figure& difference);

/// Standard uncertainty of a quantity known to lie within +-half_width (rectangular).
double u_rectangular(double half_width);

/// k that covers 95.45 % with so many degrees of freedom (Student's t by Cornish-Fisher's
/// expansion; within 1 % from three on).
double coverage_factor(double freedom);

/// Mismatch between two reflection coefficients: limits 20 lg(1 +- g1 g2), U-shaped.
double u_mismatch_db(double reflection_1, double reflection_2);

/// |Gamma| = (VSWR - 1) / (VSWR + 1).
double reflection_from_vswr(double vswr);

}  // namespace heron
