#include "core/method/frequency/drift_fit.h"

#include <Eigen/Dense>
#include <algorithm>
#include <array>
#include <cmath>

#include "core/signal/median.h"

namespace heron {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

constexpr double kOutlier = 3.5;
constexpr double kToSigma = 1.4826;  // of a median absolute deviation
constexpr int kMostRounds = 12;
constexpr std::size_t kMostFitted = 1000;  ///< beyond, blocks of readings are fitted
constexpr double kLeastRatio = 3.0;        ///< of two time constants
constexpr double kLeastSpanK = 0.5;        ///< of temperature, to be told apart from nothing

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

struct DriftPoints {
  VectorXd t;
  VectorXd y;
  VectorXd temperature;  ///< less its mean
  VectorXd weight;
};

struct DriftCurve {
  CurveShape shape;
  std::vector<double> tau;
  VectorXd linear;  ///< settled, amplitudes, rate, per kelvin
  double chi2 = 1e300;
};

MatrixXd design(const CurveShape& shape, const std::vector<double>& tau, const DriftPoints& p) {
  MatrixXd m(p.t.size(), shape.linear());
  m.col(0).setOnes();
  Eigen::Index c = 1;
  for (const double one : tau) m.col(c++) = (-p.t.array() / one).exp();
  if (shape.has_rate) m.col(c++) = p.t;
  if (shape.has_temperature) m.col(c) = p.temperature;
  return m;
}

/// Best linear parts for these time constants.
DriftCurve solve(const CurveShape& shape, const std::vector<double>& tau, const DriftPoints& p) {
  DriftCurve curve{shape, tau, {}, 1e300};
  const MatrixXd m = p.weight.asDiagonal() * design(shape, tau, p);
  const VectorXd y = p.weight.asDiagonal() * p.y;
  // Few parts of alike size: the squares are good enough, and quick.
  const VectorXd size = m.colwise().norm().cwiseMax(1e-300);
  const MatrixXd scaled = m * size.cwiseInverse().asDiagonal();
  curve.linear = (scaled.transpose() * scaled).fullPivLu().solve(scaled.transpose() * y);
  curve.chi2 = (scaled * curve.linear - y).squaredNorm();
  curve.linear = curve.linear.cwiseQuotient(size);
  return curve;
}

/// A faster one is seen by two readings only; one as slow as the record is a rate.
std::pair<double, double> time_constants(const CurveShape& shape, const DriftPoints& p) {
  const double length = p.t(p.t.size() - 1) - p.t(0);
  const double step = length / static_cast<double>(p.t.size() - 1);
  return {std::max(length / 400.0, 2.0 * step), length / (shape.has_rate ? 3.0 : 1.5)};
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

/// Time constants by Gauss and Newton, each step shortened until it helps.
DriftCurve refined(DriftCurve best, const DriftPoints& p) {
  if (best.tau.empty()) return best;
  const auto [shortest, longest] = time_constants(best.shape, p);
  constexpr int kMostSteps = 20;
  constexpr double kMostAtOnce = 0.7;  // of a logarithm
  for (int i = 0; i < kMostSteps; ++i) {
    const MatrixXd j = slopes(best, p);
    const VectorXd off =
        p.weight.asDiagonal() * (p.y - design(best.shape, best.tau, p) * best.linear);
    const VectorXd size = j.colwise().norm().cwiseMax(1e-300);
    const MatrixXd scaled = j * size.cwiseInverse().asDiagonal();
    const VectorXd step = (scaled.transpose() * scaled)
                              .fullPivLu()
                              .solve(scaled.transpose() * off)
                              .cwiseQuotient(size);
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
      DriftCurve next = solve(best.shape, tau, p);
      if (next.chi2 >= best.chi2) continue;
      gained = 1.0 - next.chi2 / best.chi2;
      best = std::move(next);
      is_better = true;
    }
    if (!is_better || gained < 1e-12) break;
  }
  return best;
}

DriftCurve best_of_shape(const CurveShape& shape, const DriftPoints& p) {
  if (shape.exponentials == 0) return solve(shape, {}, p);
  const auto [shortest, longest] = time_constants(shape, p);
  if (shortest >= longest) return {shape, {}, {}, 1e300};
  constexpr int kPlaces = 24;
  std::vector<double> places;
  for (int i = 0; i < kPlaces; ++i)
    places.push_back(shortest * std::pow(longest / shortest, i / (kPlaces - 1.0)));
  DriftCurve best;
  for (std::size_t i = 0; i < places.size(); ++i) {
    if (shape.exponentials == 1) {
      const DriftCurve one = solve(shape, {places[i]}, p);
      if (one.chi2 < best.chi2) best = one;
      continue;
    }
    for (std::size_t k = i + 4; k < places.size(); k += 2) {
      if (places[k] < kLeastRatio * places[i]) continue;
      const DriftCurve two = solve(shape, {places[i], places[k]}, p);
      if (two.chi2 < best.chi2) best = two;
    }
  }
  return refined(best, p);
}

/// Every k readings as one; what is put aside is not in it.
DriftPoints points_of(std::span<const DriftSample> samples, const std::vector<bool>& is_outlier,
                      double mean_temperature, bool is_median) {
  const std::size_t block =
      std::max<std::size_t>(1, (samples.size() + kMostFitted - 1) / kMostFitted);
  std::vector<std::array<double, 4>> rows;
  for (std::size_t from = 0; from < samples.size(); from += block) {
    double t = 0.0;
    double y = 0.0;
    double temperature = 0.0;
    double count = 0.0;
    std::vector<double> values;
    for (std::size_t i = from; i < std::min(from + block, samples.size()); ++i) {
      if (is_outlier[i]) continue;
      t += samples[i].seconds;
      y += samples[i].error_hz;
      values.push_back(samples[i].error_hz);
      temperature += samples[i].temperature_c.value_or(mean_temperature) - mean_temperature;
      count += 1.0;
    }
    if (count == 0.0) continue;
    rows.push_back({t / count, is_median ? median_of(values) : y / count, temperature / count,
                    std::sqrt(count)});
  }
  DriftPoints p;
  const auto n = static_cast<Eigen::Index>(rows.size());
  p.t.resize(n);
  p.y.resize(n);
  p.temperature.resize(n);
  p.weight.resize(n);
  for (Eigen::Index i = 0; i < n; ++i) {
    const auto& row = rows[static_cast<std::size_t>(i)];
    p.t(i) = row[0];
    p.y(i) = row[1];
    p.temperature(i) = row[2];
    p.weight(i) = row[3];
  }
  return p;
}

/// Far readings pull less: the first curve has to find its way among outliers.
DriftPoints without_pull(DriftPoints p, const DriftCurve& curve) {
  const VectorXd off = (p.y - design(curve.shape, curve.tau, p) * curve.linear).cwiseAbs();
  std::vector<double> sizes(off.data(), off.data() + off.size());
  const double scale = std::max(kToSigma * median_of(sizes), 1e-12);
  for (Eigen::Index i = 0; i < off.size(); ++i) {
    const double far = off(i) / (kOutlier * scale);
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

double value_at(const DriftCurve& c, double t, double temperature) {
  double y = c.linear(0);
  Eigen::Index k = 1;
  for (const double tau : c.tau) y += c.linear(k++) * std::exp(-t / tau);
  if (c.shape.has_rate) y += c.linear(k++) * t;
  if (c.shape.has_temperature) y += c.linear(k) * temperature;
  return y;
}

double slope_at(const DriftCurve& c, double t) {
  double slope = 0.0;
  Eigen::Index k = 1;
  for (const double tau : c.tau) slope -= c.linear(k++) / tau * std::exp(-t / tau);
  if (c.shape.has_rate) slope += c.linear(k);
  return slope;
}

/// How many readings say as much as these: what is alike from one to the next counts less.
double effective(const VectorXd& off) {
  const auto n = static_cast<double>(off.size());
  double product = 0.0;
  for (Eigen::Index i = 0; i + 1 < off.size(); ++i) product += off(i) * off(i + 1);
  const double square = off.squaredNorm();
  const double r = square > 0.0 ? std::clamp(product / square, 0.0, 0.98) : 0.0;
  return n * (1.0 - r) / (1.0 + r);
}

/// The curve with the fewest parts that are worth it.
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
        // Each part wants two readings more, an exponential four.
        if (n < 3.0 + 2.0 * static_cast<double>(shape.parameters()) ||
            (exponentials == 2 && n < 40))
          continue;
        DriftCurve curve = robust_curve(shape, p);
        if (curve.linear.size() == 0) continue;
        const DriftPoints pulled = without_pull(p, curve);
        const VectorXd off =
            pulled.weight.asDiagonal() * (p.y - design(shape, curve.tau, p) * curve.linear);
        all.push_back({std::move(curve), std::max(off.squaredNorm() / n, 1e-18), effective(off)});
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

/// Of all parameters: the linear ones, then the logarithms of the time constants.
MatrixXd covariance(const DriftCurve& c, const DriftPoints& p, double variance) {
  const MatrixXd j = slopes(c, p);
  return variance * (j.transpose() * j).completeOrthogonalDecomposition().pseudoInverse();
}

Figure figure(const char* id, const char* label, const char* unit, double value, double u) {
  Figure f;
  f.id = id;
  f.label = label;
  f.unit = unit;
  f.value = value;
  f.contributions = {{"scatter of the readings", u, Scope::independent}};
  return f;
}

/// Of some function of the parameters, by its slope along each of them.
template <class F>
double u_of(const DriftCurve& c, const MatrixXd& cov, const F& value) {
  VectorXd slope(c.shape.parameters());
  const double here = value(c);
  for (Eigen::Index k = 0; k < slope.size(); ++k) {
    const double step = std::max(1e-6 * std::sqrt(std::max(cov(k, k), 0.0)), 1e-12);
    DriftCurve moved = c;
    if (k < c.shape.linear())
      moved.linear(k) += step;
    else
      moved.tau[static_cast<std::size_t>(k - c.shape.linear())] *= std::exp(step);
    slope(k) = (value(moved) - here) / step;
  }
  return std::sqrt(std::max(0.0, slope.dot(cov * slope)));
}

void tell_range(DriftFit& fit, std::span<const DriftSample> samples) {
  bool is_first = true;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    if (fit.is_outlier[i]) continue;
    const double y = samples[i].error_hz;
    fit.least_hz = is_first ? y : std::min(fit.least_hz, y);
    fit.most_hz = is_first ? y : std::max(fit.most_hz, y);
    is_first = false;
  }
}

/// Two to four readings: from the first to the last.
void tell_few(DriftFit& fit, std::span<const DriftSample> samples) {
  if (samples.size() < 2) return;
  const double hours = (samples.back().seconds - samples.front().seconds) / 3600.0;
  if (hours > 0.0)
    fit.rate_per_h = figure("rate", "Rate from first to last", "Hz/h",
                            (samples.back().error_hz - samples.front().error_hz) / hours, 0.0);
}

}  // namespace

std::size_t DriftFit::outliers() const {
  return static_cast<std::size_t>(std::count(is_outlier.begin(), is_outlier.end(), true));
}

std::optional<double> DriftFit::settle_s(std::span<const DriftSample> samples, double tolerance_hz,
                                         double middle_hz) const {
  if (curve_hz.empty() || std::abs(curve_hz.back() - middle_hz) > tolerance_hz) return std::nullopt;
  std::size_t i = curve_hz.size() - 1;
  while (i > 0 && std::abs(curve_hz[i - 1] - middle_hz) <= tolerance_hz) --i;
  if (i == 0) return 0.0;
  // Straight between two readings.
  const double outside = std::abs(curve_hz[i - 1] - middle_hz);
  const double inside = std::abs(curve_hz[i] - middle_hz);
  const double share = outside > inside ? (outside - tolerance_hz) / (outside - inside) : 1.0;
  return samples[i - 1].seconds + share * (samples[i].seconds - samples[i - 1].seconds);
}

DriftFit fit_drift(std::span<const DriftSample> samples) {
  DriftFit fit;
  fit.is_outlier.assign(samples.size(), false);
  double mean_temperature = 0.0;
  double coldest = 1e300;
  double warmest = -1e300;
  std::size_t with_temperature = 0;
  for (const DriftSample& s : samples) {
    if (!s.temperature_c) continue;
    mean_temperature +=
        (*s.temperature_c - mean_temperature) / static_cast<double>(++with_temperature);
    coldest = std::min(coldest, *s.temperature_c);
    warmest = std::max(warmest, *s.temperature_c);
  }
  if (with_temperature > 1) fit.temperature_span_k = warmest - coldest;
  tell_range(fit, samples);
  if (samples.size() < kLeastToFit || samples.back().seconds <= samples.front().seconds) {
    tell_few(fit, samples);
    return fit;
  }
  // Where some lack a temperature it tells nothing.
  const bool has_temperature =
      with_temperature == samples.size() && fit.temperature_span_k > kLeastSpanK;

  DriftPoints p = points_of(samples, fit.is_outlier, mean_temperature, true);
  DriftCurve curve = chosen_curve(p, has_temperature);
  for (int round = 0; round < kMostRounds; ++round) {
    std::vector<double> off(samples.size());
    for (std::size_t i = 0; i < samples.size(); ++i)
      off[i] = samples[i].error_hz -
               value_at(curve, samples[i].seconds,
                        samples[i].temperature_c.value_or(mean_temperature) - mean_temperature);
    std::vector<double> sorted = off;
    const double middle = median_of(sorted);
    for (double& v : sorted) v = std::abs(v - middle);
    const double scale = kToSigma * median_of(sorted);
    std::vector<bool> next(samples.size(), false);
    // Readings that are all alike have no scatter; the last digit is not an outlier.
    if (scale > 0.0)
      for (std::size_t i = 0; i < off.size(); ++i)
        next[i] = std::abs(off[i] - middle) > kOutlier * scale;
    const bool is_same = next == fit.is_outlier;
    fit.is_outlier = std::move(next);
    p = points_of(samples, fit.is_outlier, mean_temperature, false);
    if (is_same && round > 0) break;
    // What parts it has is decided once more when what is far off is gone.
    curve = round == 0 ? chosen_curve(p, has_temperature)
                       : refined(solve(curve.shape, curve.tau, p), p);
  }
  tell_range(fit, samples);

  const VectorXd off =
      p.weight.asDiagonal() * (p.y - design(curve.shape, curve.tau, p) * curve.linear);
  const auto n = static_cast<double>(p.t.size());
  const double free = std::max(1.0, n - static_cast<double>(curve.shape.parameters()));
  const double alike = n / std::max(1.0, effective(off));
  const MatrixXd cov = covariance(curve, p, off.squaredNorm() / free * alike);
  double square = 0.0;
  fit.curve_hz.reserve(samples.size());
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double temperature =
        samples[i].temperature_c.value_or(mean_temperature) - mean_temperature;
    fit.curve_hz.push_back(value_at(curve, samples[i].seconds, temperature));
    if (!fit.is_outlier[i]) square += std::pow(samples[i].error_hz - fit.curve_hz.back(), 2.0);
  }
  fit.scatter_hz =
      std::sqrt(square / std::max(1.0, static_cast<double>(samples.size() - fit.outliers()) -
                                           static_cast<double>(curve.shape.parameters())));
  const double end = samples.back().seconds;
  const double last_temperature =
      samples.back().temperature_c.value_or(mean_temperature) - mean_temperature;
  const auto at_end = [&](const DriftCurve& c) { return value_at(c, end, last_temperature); };
  const auto rate = [&](const DriftCurve& c) { return 3600.0 * slope_at(c, end); };
  fit.settled_hz = curve.linear(0);
  fit.final_error =
      figure("final_error", "Error at the end", "Hz", at_end(curve), u_of(curve, cov, at_end));
  // A curve without a slope says that any slope was too small to be seen: how small is its u.
  DriftCurve sloped = curve;
  MatrixXd sloped_cov = cov;
  if (!curve.shape.has_rate) {
    CurveShape shape = curve.shape;
    shape.has_rate = true;
    sloped = solve(shape, curve.tau, p);
    sloped_cov = covariance(sloped, p, off.squaredNorm() / free * alike);
  }
  fit.rate_per_h =
      figure("rate", "Drift at the end", "Hz/h", rate(curve), u_of(sloped, sloped_cov, rate));
  const auto warm = [&](std::size_t k) {
    const auto column = static_cast<Eigen::Index>(k);
    WarmUp w;
    w.amplitude_hz = curve.linear(1 + column);
    w.u_amplitude_hz = std::sqrt(std::max(0.0, cov(1 + column, 1 + column)));
    w.tau_s = curve.tau[k];
    const Eigen::Index at = curve.shape.linear() + column;
    w.u_tau_s = w.tau_s * std::sqrt(std::max(0.0, cov(at, at)));
    return w;
  };
  if (!curve.tau.empty()) {
    // The longer one is the case, the shorter the oscillator itself.
    fit.warm_up = warm(curve.tau.size() - 1);
    if (curve.tau.size() > 1) fit.second_warm_up = warm(0);
  }
  if (curve.shape.has_temperature) {
    const Eigen::Index at = curve.shape.linear() - 1;
    fit.per_kelvin_hz = figure("per_kelvin", "Per kelvin", "Hz/K", curve.linear(at),
                               std::sqrt(std::max(0.0, cov(at, at))));
  }
  return fit;
}

}  // namespace heron
