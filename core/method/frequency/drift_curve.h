#pragma once

#include <Eigen/Core>
#include <vector>

namespace heron {

/// Which parts a curve has.
struct CurveShape {
  int exponentials = 0;
  bool has_rate = false;
  bool has_temperature = false;
  Eigen::Index linear() const {
    return 1 + exponentials + (has_rate ? 1 : 0) + (has_temperature ? 1 : 0);
  }
  Eigen::Index parameters() const { return linear() + exponentials; }
};

/// Readings, or means of blocks of them.
struct DriftPoints {
  Eigen::VectorXd t;
  Eigen::VectorXd y;
  Eigen::VectorXd temperature;  ///< less its mean
  Eigen::VectorXd weight;
};

/// settled + sum of A exp(-t/tau) + rate t + c (T - mean T), each part where its shape has it.
struct DriftCurve {
  CurveShape shape;
  std::vector<double> tau;
  Eigen::VectorXd linear;  ///< settled, amplitudes, rate, per kelvin
  double chi2 = 1e300;
  double value_at(double t, double temperature) const;
  double slope_at(double t) const;
};

/// Best linear parts for these time constants, by weighted least squares.
DriftCurve curve_with(const CurveShape& shape, const std::vector<double>& tau,
                      const DriftPoints& points);
/// Its time constants by Gauss and Newton, each step shortened until it helps.
DriftCurve refined_curve(DriftCurve best, const DriftPoints& points);
/// The curve with the fewest parts that are worth it (Bayesian information criterion at twice the
/// usual price: nothing is found in plain scatter), outliers pulling little.
DriftCurve chosen_curve(const DriftPoints& points, bool has_temperature);
/// Of all its parameters: the linear ones, then the logarithms of the time constants.
Eigen::MatrixXd covariance_of(const DriftCurve& curve, const DriftPoints& points, double variance);
/// How far the points lie off it, times their weights.
Eigen::VectorXd weighted_off(const DriftCurve& curve, const DriftPoints& points);
/// How many readings say as much as these: what is alike from one to the next counts less.
double effective_count(const Eigen::VectorXd& off);

}  // namespace heron
