#include "core/method/limiter_fit.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>
#include <limits>
#include <numbers>

namespace heron {
namespace {

constexpr double kSmallestU = 0.006;
constexpr double kSlopeBelow = 1.0;
constexpr double kSlopeBelowU = 0.15;
constexpr double kSlopeAboveU = 0.1;
constexpr double kOutputU = 50.0;  // tells nothing
constexpr std::size_t kCorners = 30;
constexpr std::size_t kSharpnesses = 20;
constexpr int kRounds = 4;
constexpr double kNegligible = 12.0;  // in the logarithm of the weight

// Three points stand for a normal distribution (Gauss-Hermite).
constexpr std::array<std::pair<double, double>, 3> kNormal{
    {{-std::numbers::sqrt3, 1.0 / 6.0}, {0.0, 2.0 / 3.0}, {std::numbers::sqrt3, 1.0 / 6.0}}};

using Vector = Eigen::Vector3d;
using Matrix = Eigen::Matrix3d;

/// What is driven beyond the corner: 0 far below it, the drive itself far above.
double beyond(double drive_over_corner, double sharpness) {
  const double z = sharpness * drive_over_corner;
  return (std::max(z, 0.0) + std::log1p(std::exp(-std::abs(z)))) / sharpness;
}

/// What output at the corner, slope below and slope above add to the output at a drive.
Vector row_of(double drive_over_corner, double sharpness) {
  const double over = beyond(drive_over_corner, sharpness);
  return {1.0, drive_over_corner - over, over};
}

double weight_of(const LimiterPoint& p, double scale) {
  const double u = scale * std::max(p.u_db, kSmallestU);
  return 1.0 / (u * u);
}

struct Fitted {
  LimiterCurve curve;
  Matrix covariance = Matrix::Zero();  ///< of output at the corner, slope below and above
  double chi_squared = 0.0;
  double log_weight = 0.0;
};

/// The linear part for one corner and sharpness; `scale` widens the points' own u.
Fitted fit(std::span<const LimiterPoint> points, double corner, double sharpness, double scale) {
  const Vector prior(points.back().output_db, kSlopeBelow, 0.0);
  const Vector prior_weight = Vector(kOutputU, kSlopeBelowU, kSlopeAboveU).array().pow(-2.0);
  Matrix normal = prior_weight.asDiagonal();
  Vector right = prior_weight.cwiseProduct(prior);
  for (const LimiterPoint& p : points) {
    const Vector row = row_of(p.drive_db - corner, sharpness);
    const double weight = weight_of(p, scale);
    normal += weight * row * row.transpose();
    right += weight * p.output_db * row;
  }
  Fitted f;
  f.covariance = normal.inverse();
  const Vector solved = f.covariance * right;
  f.curve = {corner, sharpness, solved[0], solved[1], solved[2], 0.0, 0.0};
  for (const LimiterPoint& p : points)
    f.chi_squared += weight_of(p, scale) * std::pow(p.output_db - f.curve.output_db(p.drive_db), 2);
  const double cost = prior_weight.dot((solved - prior).cwiseAbs2());
  f.log_weight = -0.5 * (f.chi_squared + cost + std::log(normal.determinant()));
  return f;
}

struct Box {
  double low;
  double high;
  double at(std::size_t i, std::size_t count) const {
    return std::lerp(low, high, static_cast<double>(i) / static_cast<double>(count - 1));
  }
};

std::vector<Fitted> grid(std::span<const LimiterPoint> points, double scale) {
  Box corner{points.front().drive_db - 4.0, points.back().drive_db + 3.0};
  Box log_sharpness{std::log(0.15), std::log(10.0)};
  std::vector<Fitted> all;
  for (int round = 0; round < kRounds; ++round) {
    all.clear();
    double best = -1e300;
    for (std::size_t i = 0; i < kCorners; ++i) {
      for (std::size_t k = 0; k < kSharpnesses; ++k) {
        all.push_back(fit(points, corner.at(i, kCorners),
                          std::exp(log_sharpness.at(k, kSharpnesses)), scale));
        best = std::max(best, all.back().log_weight);
      }
    }
    // Closer, about all that counts.
    Box next_corner{1e300, -1e300};
    Box next_sharpness{1e300, -1e300};
    for (const Fitted& f : all) {
      if (f.log_weight < best - kNegligible) continue;
      next_corner = {std::min(next_corner.low, f.curve.corner_db),
                     std::max(next_corner.high, f.curve.corner_db)};
      const double s = std::log(f.curve.sharpness);
      next_sharpness = {std::min(next_sharpness.low, s), std::max(next_sharpness.high, s)};
    }
    if (round + 1 == kRounds) {
      std::erase_if(all, [&](const Fitted& f) { return f.log_weight < best - kNegligible; });
      break;
    }
    const double cell = (corner.high - corner.low) / static_cast<double>(kCorners - 1);
    const double cell_s =
        (log_sharpness.high - log_sharpness.low) / static_cast<double>(kSharpnesses - 1);
    corner = {std::max(corner.low, next_corner.low - cell),
              std::min(corner.high, next_corner.high + cell)};
    log_sharpness = {std::max(log_sharpness.low, next_sharpness.low - cell_s),
                     std::min(log_sharpness.high, next_sharpness.high + cell_s)};
  }
  return all;
}

/// The curve whose slope above is so many standard deviations from the likeliest, the rest as
/// likely with that.
LimiterCurve at_slope(const Fitted& f, double sigmas) {
  const Matrix& v = f.covariance;
  const double sd = std::sqrt(v(2, 2));
  const Vector moved = v.col(2) * (sigmas / sd);
  LimiterCurve c = f.curve;
  c.corner_output_db += moved[0];
  c.slope_below += moved[1];
  c.slope_above += moved[2];
  // What is left free, a little above the corner.
  const Vector row = row_of(1.0 / c.sharpness, c.sharpness);
  const Matrix left = v - v.col(2) * v.col(2).transpose() / v(2, 2);
  c.u_output_db = std::sqrt(std::max(0.0, row.dot(left * row)));
  return c;
}

}  // namespace

double LimiterCurve::output_db(double drive_db) const {
  const Vector row = row_of(drive_db - corner_db, sharpness);
  return row.dot(Vector(corner_output_db, slope_below, slope_above));
}

double LimiterCurve::drive_of_rise(double rise_db) const {
  if (slope_above >= rise_db || slope_below <= rise_db)
    return std::numeric_limits<double>::infinity();
  const double share = (slope_below - rise_db) / (slope_below - slope_above);
  // (1 + e E) / (1 + e) = E^share, with e = exp(sharpness (drive - corner)), E = exp(sharpness).
  const double whole = std::expm1(sharpness);
  const double part = std::expm1(sharpness * share);
  return corner_db + std::log(part / (whole - part)) / sharpness;
}

std::vector<LimiterCurve> limiter_curves(std::span<const LimiterPoint> points) {
  if (points.size() < 3) return {};
  std::vector<LimiterPoint> sorted(points.begin(), points.end());
  std::sort(sorted.begin(), sorted.end(),
            [](const auto& a, const auto& b) { return a.drive_db < b.drive_db; });
  std::vector<Fitted> all = grid(sorted, 1.0);
  double least = 1e300;
  for (const Fitted& f : all) least = std::min(least, f.chi_squared);
  // Corner, sharpness and output are found from the points; the slopes nearly known.
  const double freedom = std::max(1.0, static_cast<double>(sorted.size()) - 4.0);
  if (least > freedom) all = grid(sorted, std::sqrt(least / freedom));
  double best = -1e300;
  for (const Fitted& f : all) best = std::max(best, f.log_weight);
  std::vector<LimiterCurve> curves;
  double sum = 0.0;
  for (const Fitted& f : all) {
    for (const auto& [sigmas, share] : kNormal) {
      LimiterCurve c = at_slope(f, sigmas);
      c.weight = share * std::exp(f.log_weight - best);
      sum += c.weight;
      curves.push_back(c);
    }
  }
  for (LimiterCurve& c : curves) c.weight /= sum;
  return curves;
}

Interval interval_of(std::vector<std::pair<double, double>> values) {
  if (values.empty()) return {};
  std::sort(values.begin(), values.end());
  double all = 0.0;
  for (const auto& [value, weight] : values) all += weight;
  const auto quantile = [&](double share) {
    double sum = 0.0;
    for (const auto& [value, weight] : values) {
      sum += weight;
      if (sum >= share * all) return value;
    }
    return values.back().first;
  };
  return {quantile(0.025), quantile(0.975)};
}

}  // namespace heron
