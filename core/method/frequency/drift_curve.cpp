#include "core/method/frequency/drift_curve.h"

#include <algorithm>
#include <cmath>

#include "core/signal/dense.h"
#include "core/signal/median.h"

namespace heron {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

constexpr double kPullsLess = 3.5;   // scaled median absolute deviations
constexpr double kLeastRatio = 3.0;  // of two time constants

MatrixXd design(const CurveShape& shape, const std::vector<double>& tau, const DriftPoints& p) {
  MatrixXd m(p.t.size(), shape.linear());
  m.col(0).setOnes();
  Eigen::Index c = 1;
  for (const double one : tau) m.col(c++) = (-p.t.array() / one).exp();
  if (shape.has_rate) m.col(c++) = p.t;
  if (shape.has_temperature) m.col(c) = p.temperature;
  return m;
}

/// A faster one is over before the third reading, however they are spaced; one as slow as the
/// record is a rate.
std::pair<double, double> time_constants(const CurveShape& shape, const DriftPoints& p) {
  const double length = p.t(p.t.size() - 1) - p.t(0);
  const double third = p.t(std::min<Eigen::Index>(2, p.t.size() - 1)) - p.t(0);
  return {std::max(length / 400.0, third), length / (shape.has_rate ? 3.0 : 1.5)};
}

/// Slopes along every parameter: the linear ones, then the logarithms of the time constants.
MatrixXd slopes(const DriftCurve& c, const DriftPoints& p) {
  const MatrixXd linear = design(c.shape, c.tau, p);
  MatrixXd j(p.t.size(), c.shape.parameters());
  j.leftCols(linear.cols()) = linear;
  for (std::size_t k = 0; k < c.tau.size(); ++k)
    j.col(linear.cols() + static_cast<Eigen::Index>(k)) =
        c.linear(1 + static_cast<Eigen::Index>(k)) / c.tau[k] * p.t.array() *
        (-p.t.array() / c.tau[k]).exp();
  return p.weight.asDiagonal() * j;
}

DriftCurve best_of_shape(const CurveShape& shape, const DriftPoints& p) {
  if (shape.exponentials == 0) return curve_with(shape, {}, p);
  const auto [shortest, longest] = time_constants(shape, p);
  if (shortest >= longest) return {shape, {}, {}, 1e300};
  constexpr int kPlaces = 24;
  std::vector<double> places;
  for (int i = 0; i < kPlaces; ++i)
    places.push_back(shortest * std::pow(longest / shortest, i / (kPlaces - 1.0)));
  DriftCurve best;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (shape.exponentials == 1) {
      const DriftCurve one = curve_with(shape, {places[i]}, p);
      if (one.chi2 < best.chi2) best = one;
      continue;
    }
    for (std::size_t k = i + 4; k < places.size(); k += 2) {
      if (places[k] < kLeastRatio * places[i]) continue;
      const DriftCurve two = curve_with(shape, {places[i], places[k]}, p);
      if (two.chi2 < best.chi2) best = two;
    }
  }
  return refined_curve(best, p);
}

/// Far readings pull less: the first curve has to find its way among outliers.
DriftPoints without_pull(DriftPoints p, const DriftCurve& curve) {
  const VectorXd off = (p.y - times(design(curve.shape, curve.tau, p), curve.linear)).cwiseAbs();
  std::vector<double> sizes(off.data(), off.data() + off.size());
  const double scale = std::max(kMedianToSigma * median_of(sizes), 1e-12);
  for (Eigen::Index i = 0; i < off.size(); ++i) {
    const double far = off(i) / (kPullsLess * scale);
    p.weight(i) *= far < 1.0 ? 1.0 : 1.0 / far;
    if (far > 3.0) p.weight(i) *= 1e-3;
  }
  return p;
}

DriftCurve robust_curve(const CurveShape& shape, const DriftPoints& p) {
  DriftCurve curve = best_of_shape(shape, p);
  for (int i = 0; i < 3 && curve.linear.size() > 0; ++i)
    curve = best_of_shape(shape, without_pull(p, curve));
  return curve;
}

}  // namespace

double DriftCurve::value_at(double t, double temperature) const {
  double y = linear(0);
  Eigen::Index k = 1;
  for (const double one : tau) y += linear(k++) * std::exp(-t / one);
  if (shape.has_rate) y += linear(k++) * t;
  if (shape.has_temperature) y += linear(k) * temperature;
  return y;
}

double DriftCurve::slope_at(double t) const {
  double slope = 0.0;
  Eigen::Index k = 1;
  for (const double one : tau) slope -= linear(k++) / one * std::exp(-t / one);
  if (shape.has_rate) slope += linear(k);
  return slope;
}

DriftCurve curve_with(const CurveShape& shape, const std::vector<double>& tau,
                      const DriftPoints& p) {
  DriftCurve curve{shape, tau, {}, 1e300};
  const MatrixXd m = p.weight.asDiagonal() * design(shape, tau, p);
  const VectorXd y = p.weight.asDiagonal() * p.y;
  // Few parts of alike size: the squares are good enough, and quick.
  const VectorXd size = m.colwise().norm().cwiseMax(1e-300);
  const MatrixXd scaled = m * size.cwiseInverse().asDiagonal();
  curve.linear = solved(normal_matrix(scaled), transposed_times(scaled, y));
  curve.chi2 = (times(scaled, curve.linear) - y).squaredNorm();
  curve.linear = curve.linear.cwiseQuotient(size);
  return curve;
}

DriftCurve refined_curve(DriftCurve best, const DriftPoints& p) {
  if (best.tau.empty()) return best;
  const auto [shortest, longest] = time_constants(best.shape, p);
  constexpr int kMostSteps = 20;
  constexpr double kMostAtOnce = 0.7;  // of a logarithm
  for (int i = 0; i < kMostSteps; ++i) {
    const MatrixXd j = slopes(best, p);
    const VectorXd off = weighted_off(best, p);
    const VectorXd size = j.colwise().norm().cwiseMax(1e-300);
    const MatrixXd scaled = j * size.cwiseInverse().asDiagonal();
    const VectorXd step =
        solved(normal_matrix(scaled), transposed_times(scaled, off)).cwiseQuotient(size);
    bool is_better = false;
    double gained = 0.0;
    for (double share = 1.0; !is_better && share > 0.02; share /= 2.0) {
      std::vector<double> tau = best.tau;
      for (std::size_t k = 0; k < tau.size(); ++k) {
        const double by = share * step(best.shape.linear() + static_cast<Eigen::Index>(k));
        tau[k] = std::clamp(tau[k] * std::exp(std::clamp(by, -kMostAtOnce, kMostAtOnce)), shortest,
                            longest);
      }
      if (tau.size() == 2 && tau[1] < kLeastRatio * tau[0]) continue;
      DriftCurve next = curve_with(best.shape, tau, p);
      if (next.chi2 >= best.chi2) continue;
      gained = 1.0 - next.chi2 / best.chi2;
      best = std::move(next);
      is_better = true;
    }
    if (!is_better || gained < 1e-12) break;
  }
  return best;
}

double effective_count(const VectorXd& off) {
  const auto n = static_cast<double>(off.size());
  double product = 0.0;
  for (Eigen::Index i = 0; i + 1 < off.size(); ++i) product += off(i) * off(i + 1);
  const double square = off.squaredNorm();
  const double r = square > 0.0 ? std::clamp(product / square, 0.0, 0.98) : 0.0;
  return n * (1.0 - r) / (1.0 + r);
}

Eigen::VectorXd weighted_off(const DriftCurve& c, const DriftPoints& p) {
  return p.weight.asDiagonal() * (p.y - times(design(c.shape, c.tau, p), c.linear));
}

DriftCurve chosen_curve(const DriftPoints& p, bool has_temperature) {
  const auto n = static_cast<double>(p.t.size());
  struct Tried {
    DriftCurve curve;
    double mean_square;
    double count;
  };
  std::vector<Tried> all;
  for (const int exponentials : {0, 1, 2}) {
    for (const bool has_rate : {false, true}) {
      for (const bool with_temperature : {false, true}) {
        if (with_temperature && !has_temperature) continue;
        const CurveShape shape{exponentials, has_rate, with_temperature};
        // Each part wants two readings more, an exponential four; a level alone does with any.
        const bool is_level = shape.parameters() == 1;
        if (!is_level && (n < 3.0 + 2.0 * static_cast<double>(shape.parameters()) ||
                          (exponentials == 2 && n < 40)))
          continue;
        DriftCurve curve = robust_curve(shape, p);
        if (curve.linear.size() == 0) continue;
        const DriftPoints pulled = without_pull(p, curve);
        const VectorXd off = weighted_off(curve, pulled);
        all.push_back(
            {std::move(curve), std::max(off.squaredNorm() / n, 1e-18), effective_count(off)});
      }
    }
  }
  // Scatter is alike from reading to reading as far as the best of them does not tell it.
  const auto best = std::min_element(all.begin(), all.end(), [](const Tried& a, const Tried& b) {
    return a.mean_square < b.mean_square;
  });
  const double count = std::max(4.0, best->count);
  const auto score = [&](const Tried& t) {
    // Twice the usual price: nothing is found in plain scatter.
    return count * std::log(t.mean_square) +
           2.0 * static_cast<double>(t.curve.shape.parameters()) * std::log(count);
  };
  return std::min_element(all.begin(), all.end(),
                          [&](const Tried& a, const Tried& b) { return score(a) < score(b); })
      ->curve;
}

MatrixXd covariance_of(const DriftCurve& c, const DriftPoints& p, double variance) {
  return variance * pseudo_inverse(normal_matrix(slopes(c, p)));
}

}  // namespace heron
