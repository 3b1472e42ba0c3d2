#include "core/method/frequency/drift_fit.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

#include "core/method/frequency/drift_curve.h"
#include "core/signal/dense.h"
#include "core/signal/median.h"

namespace heron {
namespace {

using Eigen::MatrixXd;
using Eigen::VectorXd;

constexpr double kOutlier = 3.5;
constexpr int kMostRounds = 12;
constexpr std::size_t kMostFitted = 1000;  ///< beyond, blocks of readings are fitted
constexpr double kLeastSpanK = 0.5;        ///< of temperature, to be told apart from nothing

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
  return std::sqrt(std::max(0.0, slope.dot(times(cov, slope))));
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

std::optional<Figure> DriftFit::settled_after(std::span<const DriftSample> samples,
                                              double tolerance_hz, double middle_hz) const {
  const auto at = settle_s(samples, tolerance_hz, middle_hz);
  if (!at) return std::nullopt;
  Figure f = figure("settle", "Settled after", "min", *at / 60.0, 0.0);
  f.contributions.clear();
  // Where it comes in: as far as the curve is off, by how fast it moves there.
  const auto next =
      std::lower_bound(samples.begin(), samples.end(), *at,
                       [](const DriftSample& s, double seconds) { return s.seconds < seconds; });
  const auto i = static_cast<std::size_t>(next - samples.begin());
  if (i == 0 || i >= samples.size()) return f;
  const double step_s = samples[i].seconds - samples[i - 1].seconds;
  const double slope = step_s > 0.0 ? std::abs(curve_hz[i] - curve_hz[i - 1]) / step_s : 0.0;
  if (u_curve_hz && slope > 0.0)
    f.contributions.push_back({"scatter of the readings",
                               std::min(u_curve_hz(*at) / slope, samples.back().seconds) / 60.0,
                               Scope::independent});
  f.contributions.push_back(
      {"time between readings", u_rectangular(step_s / 2.0) / 60.0, Scope::independent});
  return f;
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
    fit.remarks.push_back(
        {"few_readings", Severity::note,
         fmt::format("{} readings: range and rate only, nothing is fitted.", samples.size()),
         "Read at least five times"});
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
      off[i] =
          samples[i].error_hz -
          curve.value_at(samples[i].seconds,
                         samples[i].temperature_c.value_or(mean_temperature) - mean_temperature);
    std::vector<double> sorted = off;
    const double middle = median_of(sorted);
    for (double& v : sorted) v = std::abs(v - middle);
    const double scale = kMedianToSigma * median_of(sorted);
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
                       : refined_curve(curve_with(curve.shape, curve.tau, p), p);
  }
  tell_range(fit, samples);

  const VectorXd off = weighted_off(curve, p);
  const auto n = static_cast<double>(p.t.size());
  const double free = std::max(1.0, n - static_cast<double>(curve.shape.parameters()));
  const double alike = n / std::max(1.0, effective_count(off));
  const MatrixXd cov = covariance_of(curve, p, off.squaredNorm() / free * alike);
  double square = 0.0;
  fit.curve_hz.reserve(samples.size());
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double temperature =
        samples[i].temperature_c.value_or(mean_temperature) - mean_temperature;
    fit.curve_hz.push_back(curve.value_at(samples[i].seconds, temperature));
    if (!fit.is_outlier[i]) square += std::pow(samples[i].error_hz - fit.curve_hz.back(), 2.0);
  }
  fit.scatter_hz =
      std::sqrt(square / std::max(1.0, static_cast<double>(samples.size() - fit.outliers()) -
                                           static_cast<double>(curve.shape.parameters())));
  const double end = samples.back().seconds;
  const double last_temperature =
      samples.back().temperature_c.value_or(mean_temperature) - mean_temperature;
  const auto at_end = [&](const DriftCurve& c) { return c.value_at(end, last_temperature); };
  const auto rate = [&](const DriftCurve& c) { return 3600.0 * c.slope_at(end); };
  fit.settled_hz = curve.linear(0);
  fit.u_curve_hz = [curve, cov](double seconds) {
    return u_of(curve, cov, [seconds](const DriftCurve& c) { return c.value_at(seconds, 0.0); });
  };
  fit.final_error =
      figure("final_error", "Error at the end", "Hz", at_end(curve), u_of(curve, cov, at_end));
  // A curve without a slope says that any slope was too small to be seen: how small is its u.
  DriftCurve sloped = curve;
  MatrixXd sloped_cov = cov;
  if (!curve.shape.has_rate) {
    CurveShape shape = curve.shape;
    shape.has_rate = true;
    sloped = curve_with(shape, curve.tau, p);
    sloped_cov = covariance_of(sloped, p, off.squaredNorm() / free * alike);
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
  } else if (has_temperature) {
    // What it could be at most, told from a curve that has it: much, where it went with the rest.
    CurveShape shape = curve.shape;
    shape.has_temperature = true;
    const DriftCurve warm_curve = curve_with(shape, curve.tau, p);
    const MatrixXd warm_cov = covariance_of(warm_curve, p, off.squaredNorm() / free * alike);
    const Eigen::Index at = shape.linear() - 1;
    const double most =
        std::abs(warm_curve.linear(at)) + 2.0 * std::sqrt(std::max(0.0, warm_cov(at, at)));
    fit.per_kelvin_hz = figure("per_kelvin", "Per kelvin", "Hz/K", most, 0.0);
    fit.per_kelvin_hz->bound = Bound::upper;
    fit.per_kelvin_hz->contributions.clear();
  }
  return fit;
}

}  // namespace heron
