#pragma once

#include <span>
#include <utility>
#include <vector>

namespace heron {

/// Output at one drive, both in dB of anything; `u_db` is its standard uncertainty against its
/// neighbours.
struct LimiterPoint {
  double drive_db = 0.0;
  double output_db = 0.0;
  double u_db = 0.0;
};

/// One curve that fits: its slope goes from `slope_below` to `slope_above` by a logistic function
/// of drive, `sharpness` per dB (ln(10) p / 10 for the smooth limiter of order p: Rapp 1991), about
/// `corner_db`.
struct LimiterCurve {
  double corner_db = 0.0;
  double sharpness = 1.0;
  double corner_output_db = 0.0;  ///< where the straight lines meet
  double slope_below = 1.0;
  double slope_above = 0.0;
  double u_output_db = 0.0;  ///< of its level near the corner, the slopes given
  double weight = 0.0;       ///< of all curves together: 1

  double output_db(double drive_db) const;
  /// From where 1 dB more of drive gives less than `rise_db`; infinite if nowhere.
  double drive_of_rise(double rise_db) const;
};

/// Every curve that the points allow, weighted by how well it fits (a grid over corner and
/// sharpness, the rest by linear least squares with weak priors: slope 1 +- 0.15 below, 0 +- 0.1
/// above). Scatter that is larger than the points' own u widens all. Empty for fewer than three
/// points.
std::vector<LimiterCurve> limiter_curves(std::span<const LimiterPoint> points);

/// What a quantity of a curve comes to over all of them: a 95 % interval; values may be infinite.
struct Interval {
  double low = 0.0;
  double high = 0.0;
  double middle() const { return (low + high) / 2.0; }
  double u() const { return (high - low) / 4.0; }
};
Interval interval_of(std::vector<std::pair<double, double>> values_and_weights);

}  // namespace heron
