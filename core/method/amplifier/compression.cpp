#include "core/method/amplifier/compression.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace heron {
namespace {

constexpr double kLeastU = 0.005;      // dB: the last digit of a meter
constexpr double kSamePlace = 0.01;    // dB: readings at one drive
constexpr std::size_t kMostBins = 60;  // of many readings, for the way from step to step
constexpr double kWorthFitting = 0.3;  // dB of compression that show a curve
constexpr double kAgree = 2.0;         // u
// A curve is refused where its chance is below some per mille, or a step is further off than this.
constexpr double kFarOff = 3.5;  // u

/// Mean of those at one drive, weighted by their u.
DrivenLevel mean_of(std::span<const DrivenLevel> same) {
  double sum = 0.0;
  DrivenLevel mean;
  for (const DrivenLevel& p : same) {
    const double weight = 1.0 / (p.u_db * p.u_db);
    sum += weight;
    mean.input_dbm += weight * p.input_dbm;
    mean.output_dbm += weight * p.output_dbm;
  }
  mean.input_dbm /= sum;
  mean.output_dbm /= sum;
  mean.u_db = 1.0 / std::sqrt(sum);
  return mean;
}

/// Rising, those closer than `width` joined.
std::vector<DrivenLevel> joined(const std::vector<DrivenLevel>& sorted, double width) {
  std::vector<DrivenLevel> out;
  for (std::size_t i = 0; i < sorted.size();) {
    std::size_t end = i + 1;
    while (end < sorted.size() && sorted[end].input_dbm - sorted[i].input_dbm <= width) ++end;
    out.push_back(mean_of(std::span(sorted).subspan(i, end - i)));
    i = end;
  }
  return out;
}

double gain_of(const DrivenLevel& p) {
  return p.output_dbm - p.input_dbm;
}

double limiter_down(double over_corner_db, double p) {
  const double z = p * over_corner_db * std::numbers::ln10 / 10.0;
  return 10.0 / (p * std::numbers::ln10) * (std::max(z, 0.0) + std::log1p(std::exp(-std::abs(z))));
}

/// Upper 0.5 % point of chi squared (Wilson and Hilferty 1931).
double most_chi_squared(double freedom) {
  constexpr double kNormal = 2.576;
  const double k = 2.0 / (9.0 * freedom);
  return freedom * std::pow(1.0 - k + kNormal * std::sqrt(k), 3.0);
}

using Vector = Eigen::Vector3d;
using Matrix = Eigen::Matrix3d;

struct LimiterFit {
  double gain = 0.0;
  double corner = 0.0;
  double log_p = 0.0;
  double chi_squared = std::numeric_limits<double>::infinity();
};

/// Gain is linear: the best one for a corner and a sharpness.
LimiterFit with_best_gain(std::span<const DrivenLevel> points, double corner, double log_p) {
  LimiterFit f{0.0, corner, log_p, 0.0};
  const double p = std::exp(log_p);
  double weights = 0.0;
  double squares = 0.0;
  for (const DrivenLevel& at : points) {
    const double weight = 1.0 / (at.u_db * at.u_db);
    const double gain = gain_of(at) + limiter_down(at.input_dbm - corner, p);
    weights += weight;
    f.gain += weight * gain;
    squares += weight * gain * gain;
  }
  f.gain /= weights;
  f.chi_squared = std::max(0.0, squares - weights * f.gain * f.gain);
  return f;
}

double chi_squared_of(std::span<const DrivenLevel> points, const LimiterFit& f) {
  double sum = 0.0;
  for (const DrivenLevel& at : points) {
    const double off =
        gain_of(at) - f.gain + limiter_down(at.input_dbm - f.corner, std::exp(f.log_p));
    sum += off * off / (at.u_db * at.u_db);
  }
  return sum;
}

/// How gain changes with gain, corner and the logarithm of sharpness.
Vector gradient(const DrivenLevel& at, const LimiterFit& f) {
  constexpr double kStep = 1e-5;
  const auto down = [&](double corner, double log_p) {
    return limiter_down(at.input_dbm - corner, std::exp(log_p));
  };
  return {1.0, -(down(f.corner + kStep, f.log_p) - down(f.corner - kStep, f.log_p)) / (2.0 * kStep),
          -(down(f.corner, f.log_p + kStep) - down(f.corner, f.log_p - kStep)) / (2.0 * kStep)};
}

Matrix information(std::span<const DrivenLevel> points, const LimiterFit& f) {
  Matrix normal = Matrix::Zero();
  for (const DrivenLevel& at : points) {
    const Vector g = gradient(at, f);
    normal += g * g.transpose() / (at.u_db * at.u_db);
  }
  return normal;
}

constexpr double kLeastSharpness = 0.25;
constexpr double kMostSharpness = 12.0;

LimiterFit best_fit(std::span<const DrivenLevel> points) {
  constexpr int kCorners = 60;
  constexpr int kSharpnesses = 24;
  LimiterFit best;
  for (int i = 0; i < kCorners; ++i) {
    const double corner = std::lerp(points.front().input_dbm - 3.0, points.back().input_dbm + 6.0,
                                    static_cast<double>(i) / (kCorners - 1));
    for (int k = 0; k < kSharpnesses; ++k) {
      const double log_p = std::lerp(std::log(kLeastSharpness), std::log(kMostSharpness),
                                     static_cast<double>(k) / (kSharpnesses - 1));
      const LimiterFit f = with_best_gain(points, corner, log_p);
      if (f.chi_squared < best.chi_squared) best = f;
    }
  }
  // Levenberg and Marquardt from there.
  double damping = 1e-3;
  best.chi_squared = chi_squared_of(points, best);
  for (int round = 0; round < 60 && damping < 1e9; ++round) {
    Matrix normal = information(points, best);
    Vector right = Vector::Zero();
    for (const DrivenLevel& at : points) {
      const double off =
          gain_of(at) - best.gain + limiter_down(at.input_dbm - best.corner, std::exp(best.log_p));
      right += gradient(at, best) * off / (at.u_db * at.u_db);
    }
    normal.diagonal() *= 1.0 + damping;
    const Vector change = normal.ldlt().solve(right);
    if (!change.allFinite()) break;
    LimiterFit next{
        best.gain + change[0], best.corner + change[1],
        std::clamp(best.log_p + change[2], std::log(kLeastSharpness), std::log(kMostSharpness))};
    next.chi_squared = chi_squared_of(points, next);
    if (next.chi_squared <= best.chi_squared) {
      const bool is_done = best.chi_squared - next.chi_squared < 1e-9 * (1.0 + best.chi_squared);
      best = next;
      damping /= 10.0;
      if (is_done) break;
    } else {
      damping *= 10.0;
    }
  }
  return best;
}

/// Slopes of a monotone cubic through gains at drives.
std::vector<double> monotone_slopes(const std::vector<DrivenLevel>& p) {
  const std::size_t n = p.size();
  std::vector<double> slopes(n, 0.0);
  if (n < 2) return slopes;
  std::vector<double> secants;
  for (std::size_t i = 1; i < n; ++i)
    secants.push_back((gain_of(p[i]) - gain_of(p[i - 1])) / (p[i].input_dbm - p[i - 1].input_dbm));
  slopes.front() = secants.front();
  slopes.back() = secants.back();
  for (std::size_t i = 1; i + 1 < n; ++i) {
    const double a = secants[i - 1];
    const double b = secants[i];
    if (a * b <= 0.0) continue;
    const double left = p[i].input_dbm - p[i - 1].input_dbm;
    const double right = p[i + 1].input_dbm - p[i].input_dbm;
    const double w1 = 2.0 * right + left;
    const double w2 = right + 2.0 * left;
    slopes[i] = (w1 + w2) / (w1 / a + w2 / b);
  }
  return slopes;
}

}  // namespace

CompressionCurve::CompressionCurve(std::span<const DrivenLevel> levels) {
  std::vector<DrivenLevel> sorted(levels.begin(), levels.end());
  for (DrivenLevel& p : sorted) p.u_db = std::max(p.u_db, kLeastU);
  std::stable_sort(sorted.begin(), sorted.end(),
                   [](const auto& a, const auto& b) { return a.input_dbm < b.input_dbm; });
  points_ = joined(sorted, kSamePlace);
  if (points_.size() > kMostBins)
    points_ = joined(points_, (points_.back().input_dbm - points_.front().input_dbm) / kMostBins);
  if (points_.empty()) return;
  slopes_ = monotone_slopes(points_);
  take_flat_steps();
  fit();
}

/// As many of the lowest as agree with the mean of those below them.
void CompressionCurve::take_flat_steps() {
  double weights = 0.0;
  double sum = 0.0;
  for (const DrivenLevel& p : points_) {
    const double mean = weights > 0.0 ? sum / weights : gain_of(p);
    if (std::abs(gain_of(p) - mean) >
        kAgree * std::sqrt(p.u_db * p.u_db + (weights > 0.0 ? 1.0 / weights : 0.0)))
      break;
    weights += 1.0 / (p.u_db * p.u_db);
    sum += gain_of(p) / (p.u_db * p.u_db);
    ++flat_steps_;
  }
  gain_db_ = sum / weights;
  u_gain_db_ = 1.0 / std::sqrt(weights);
  for (const DrivenLevel& p : points_) {
    const double over = gain_of(p) - gain_db_;
    if (over > kAgree * std::hypot(p.u_db, u_gain_db_))
      expansion_db_ = std::max(expansion_db_, over);
  }
}

void CompressionCurve::fit() {
  if (points_.size() < 3 || expansion_db_ > 0.0) return;
  if (gain_db_ - gain_of(points_.back()) < kWorthFitting) return;
  const LimiterFit f = best_fit(points_);
  const double freedom = static_cast<double>(points_.size()) - 3.0;
  if (freedom > 0.0 && f.chi_squared > most_chi_squared(freedom)) return;
  for (const DrivenLevel& p : points_) {
    const double off =
        gain_of(p) - f.gain + limiter_down(p.input_dbm - f.corner, std::exp(f.log_p));
    if (std::abs(off) > kFarOff * p.u_db) return;
  }
  // A weak prior on how sharply such stages saturate keeps three steps from meaning anything.
  Matrix normal = information(points_, f);
  normal(2, 2) += 1.0 / (0.7 * 0.7);
  Matrix covariance = normal.inverse();
  if (!covariance.allFinite()) return;
  if (freedom > 0.0) covariance *= std::max(1.0, f.chi_squared / freedom);
  gain_db_ = f.gain;
  u_gain_db_ = std::sqrt(std::max(0.0, covariance(0, 0)));
  corner_dbm_ = f.corner;
  sharpness_ = std::exp(f.log_p);
  for (int i = 0; i < 3; ++i)
    for (int k = 0; k < 3; ++k) covariance_[i][k] = covariance(i, k);
}

double CompressionCurve::fitted_down(double input_dbm) const {
  return limiter_down(input_dbm - corner_dbm_, sharpness_);
}

double CompressionCurve::stepwise_gain(double input_dbm) const {
  const auto next =
      std::lower_bound(points_.begin(), points_.end(), input_dbm,
                       [](const DrivenLevel& p, double value) { return p.input_dbm < value; });
  if (next == points_.begin()) return gain_of(points_.front());
  if (next == points_.end()) return gain_of(points_.back());
  const auto i = static_cast<std::size_t>(next - points_.begin());
  const double h = points_[i].input_dbm - points_[i - 1].input_dbm;
  const double t = (input_dbm - points_[i - 1].input_dbm) / h;
  const double from = gain_of(points_[i - 1]);
  const double to = gain_of(points_[i]);
  return (1.0 + 2.0 * t) * (1.0 - t) * (1.0 - t) * from +
         t * (1.0 - t) * (1.0 - t) * h * slopes_[i - 1] + t * t * (3.0 - 2.0 * t) * to +
         t * t * (t - 1.0) * h * slopes_[i];
}

double CompressionCurve::down_at(double input_dbm) const {
  return is_fitted() ? fitted_down(input_dbm) : gain_db_ - stepwise_gain(input_dbm);
}

/// The drive from which on it is down by so much; from step to step, or along the curve.
std::optional<double> CompressionCurve::crossing(double down_db, bool is_stepwise) const {
  if (!is_stepwise) {
    const double p = sharpness_ * std::numbers::ln10 / 10.0;
    return corner_dbm_ + std::log(std::expm1(p * down_db)) / p;
  }
  // The last way up: noise may cross a level more than once.
  for (std::size_t i = points_.size(); i-- > 1;) {
    if (gain_db_ - gain_of(points_[i - 1]) >= down_db || gain_db_ - gain_of(points_[i]) < down_db)
      continue;
    double low = points_[i - 1].input_dbm;
    double high = points_[i].input_dbm;
    for (int k = 0; k < 60; ++k) {
      const double middle = (low + high) / 2.0;
      (gain_db_ - stepwise_gain(middle) < down_db ? low : high) = middle;
    }
    return (low + high) / 2.0;
  }
  return std::nullopt;
}

std::optional<CompressionPoint> CompressionCurve::at(double down_db) const {
  if (points_.size() < 2 || down_db <= 0.0) return std::nullopt;
  const auto in = crossing(down_db, !is_fitted());
  if (!in || *in > points_.back().input_dbm) return std::nullopt;
  CompressionPoint point;
  point.input_dbm = *in;
  point.output_dbm = *in + gain_db_ - down_db;
  if (is_fitted()) {
    // in = c + (10/p') ln(10^(p down / 10) - 1) with p' = p ln 10 / 10, out = in + G - down.
    const double p = sharpness_ * std::numbers::ln10 / 10.0;
    const double beyond = std::expm1(p * down_db);
    const double by_log_p = -std::log(beyond) / p + down_db * (beyond + 1.0) / beyond;
    const double input[3] = {0.0, 1.0, by_log_p};
    const double output[3] = {1.0, 1.0, by_log_p};
    double var_in = 0.0;
    double var_out = 0.0;
    for (int i = 0; i < 3; ++i) {
      for (int k = 0; k < 3; ++k) {
        var_in += input[i] * input[k] * covariance_[i][k];
        var_out += output[i] * output[k] * covariance_[i][k];
      }
    }
    point.u_input_db = std::sqrt(std::max(0.0, var_in));
    point.u_output_db = std::sqrt(std::max(0.0, var_out));
    // Few steps do not show what lies between them: the straight way is the other one.
    if (const auto other = crossing(down_db, true))
      point.u_between_db = std::abs(*other - *in) / (2.0 * std::numbers::sqrt3);
    return point;
  }
  const auto next =
      std::lower_bound(points_.begin(), points_.end(), *in,
                       [](const DrivenLevel& p, double value) { return p.input_dbm < value; });
  const auto i = std::max<std::size_t>(1, static_cast<std::size_t>(next - points_.begin()));
  const DrivenLevel& a = points_[i - 1];
  const DrivenLevel& b = points_[i];
  const double slope = std::max(0.02, (gain_of(a) - gain_of(b)) / (b.input_dbm - a.input_dbm));
  const double share = (*in - a.input_dbm) / (b.input_dbm - a.input_dbm);
  const double u_here = std::hypot((1.0 - share) * a.u_db, share * b.u_db);
  point.u_input_db = std::hypot(u_here, u_gain_db_) / slope;
  point.u_output_db = std::hypot(u_here / slope, u_gain_db_ * (1.0 / slope - 1.0));
  const double straight = a.input_dbm + (gain_of(a) - gain_db_ + down_db) / slope;
  point.u_between_db = std::max(std::abs(straight - *in), 0.05 * (b.input_dbm - a.input_dbm)) /
                       (2.0 * std::numbers::sqrt3);
  return point;
}

std::optional<double> CompressionCurve::output_at(double input_dbm) const {
  if (points_.empty() || input_dbm < points_.front().input_dbm - kSamePlace ||
      input_dbm > points_.back().input_dbm + kSamePlace)
    return std::nullopt;
  return input_dbm + gain_db_ - down_at(input_dbm);
}

}  // namespace heron
