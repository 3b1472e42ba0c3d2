#include "core/method/frequency/stability.h"

#include <algorithm>
#include <array>
#include <boost/math/distributions/chi_squared.hpp>
#include <cmath>
#include <fmt/format.h>

namespace heron {

std::string_view estimator_name(Estimator estimator) {
  switch (estimator) {
    case Estimator::allan:
      return "Allan";
    case Estimator::overlapping:
      return "overlapping Allan";
    case Estimator::modified:
      return "modified Allan";
    case Estimator::time:
      return "time";
    case Estimator::hadamard:
      return "overlapping Hadamard";
    case Estimator::plain_hadamard:
      break;
  }
  return "Hadamard";
}

std::pair<double, double> confidence_interval(const StabilityPoint& p, double confidence) {
  if (p.degrees <= 0.0 || p.value <= 0.0) return {0.0, p.value};
  const boost::math::chi_squared law(p.degrees);
  const double tail = (1.0 - confidence) / 2.0;
  return {p.value * std::sqrt(p.degrees / boost::math::quantile(law, 1.0 - tail)),
          p.value * std::sqrt(p.degrees / boost::math::quantile(law, tail))};
}

PhaseRecord PhaseRecord::of_frequency(std::span<const double> frequency, double tau0_s) {
  PhaseRecord r(tau0_s);
  // Differences do not feel the mean, but a long sum of it loses digits.
  double mean = 0.0;
  std::size_t count = 0;
  for (const double y : frequency) {
    if (!std::isfinite(y)) continue;
    mean += (y - mean) / static_cast<double>(++count);
  }
  r.gap_count_ = frequency.size() - count;
  r.phase_.reserve(frequency.size() + 1);
  r.phase_.push_back(0.0);
  if (r.gap_count_ > 0) {
    r.gaps_.reserve(frequency.size() + 1);
    r.gaps_.push_back(0);
  }
  for (const double y : frequency) {
    const bool is_there = std::isfinite(y);
    r.phase_.push_back(r.phase_.back() + (is_there ? y - mean : 0.0));
    if (r.gap_count_ > 0) r.gaps_.push_back(r.gaps_.back() + (is_there ? 0U : 1U));
  }
  return r;
}

PhaseRecord PhaseRecord::of_phase(std::span<const double> phase_s, double tau0_s) {
  if (std::all_of(phase_s.begin(), phase_s.end(), [](double x) { return std::isfinite(x); })) {
    PhaseRecord r(tau0_s);
    r.phase_.reserve(phase_s.size());
    for (const double x : phase_s) r.phase_.push_back((x - phase_s.front()) / tau0_s);
    return r;
  }
  // Between two samples that are both there lies a frequency.
  std::vector<double> y;
  for (std::size_t i = 0; i + 1 < phase_s.size(); ++i)
    y.push_back((phase_s[i + 1] - phase_s[i]) / tau0_s);
  return of_frequency(y, tau0_s);
}

std::vector<Remark> PhaseRecord::remarks() const {
  if (gap_count_ == 0) return {};
  return {{"gaps", Severity::caution,
           fmt::format("{} of {} samples are missing: differences across them are left out.",
                       gap_count_, phase_.size() - 1),
           ""}};
}

template <int D>
std::pair<double, std::size_t> PhaseRecord::differences(std::size_t m, std::size_t step) const {
  double sum = 0.0;
  std::size_t terms = 0;
  const double* x = phase_.data();
  for (std::size_t i = 0; i + D * m < phase_.size(); i += step) {
    if (!is_whole(i, i + D * m)) continue;
    const double z = D == 2 ? x[i + 2 * m] - 2.0 * x[i + m] + x[i]
                            : x[i + D * m] - 3.0 * x[i + 2 * m] + 3.0 * x[i + m] - x[i];
    sum += z * z;
    ++terms;
  }
  return {sum, terms};
}

/// Second differences of phase averaged over m samples.
std::pair<double, std::size_t> PhaseRecord::modified(std::size_t m) const {
  const std::size_t n = phase_.size();
  if (n < 3 * m) return {0.0, 0};
  const double* x = phase_.data();
  double inner = 0.0;
  for (std::size_t i = 0; i < m; ++i) inner += x[i + 2 * m] - 2.0 * x[i + m] + x[i];
  double sum = 0.0;
  std::size_t terms = 0;
  for (std::size_t j = 0;; ++j) {
    if (is_whole(j, j + 3 * m - 1)) {
      sum += inner * inner;
      ++terms;
    }
    if (j + 3 * m >= n) break;
    inner += x[j + 3 * m] - 3.0 * x[j + 2 * m] + 3.0 * x[j + m] - x[j];
  }
  const auto width = static_cast<double>(m);
  return {sum / (width * width), terms};
}

NoiseKind PhaseRecord::noise_at(std::size_t m) const {
  constexpr std::size_t kLeast = 30;
  constexpr std::size_t kEnough = 4096;  // more tell the same
  // Too few averages to tell: what the longest told is carried on.
  const std::size_t most = std::max<std::size_t>(1, (phase_.size() - 1) / kLeast);
  const std::size_t spacing = std::min(m, most);
  std::vector<double> thinned;
  for (std::size_t i = 0; i < phase_.size() && thinned.size() < kEnough; i += spacing) {
    if (!is_whole(i >= spacing ? i - spacing : i, i)) thinned.clear();
    thinned.push_back(phase_[i]);
  }
  return dominant_noise(thinned);
}

std::optional<StabilityPoint> PhaseRecord::at(Estimator estimator, std::size_t m) const {
  std::pair<double, std::size_t> found;
  int order = 2;
  bool is_modified = false;
  bool is_overlapped = true;
  switch (estimator) {
    case Estimator::allan:
      found = differences<2>(m, m);
      is_overlapped = false;
      break;
    case Estimator::overlapping:
      found = differences<2>(m, 1);
      break;
    case Estimator::modified:
    case Estimator::time:
      found = modified(m);
      is_modified = true;
      break;
    case Estimator::hadamard:
      found = differences<3>(m, 1);
      order = 3;
      break;
    case Estimator::plain_hadamard:
      found = differences<3>(m, m);
      order = 3;
      is_overlapped = false;
      break;
  }
  const auto [sum, terms] = found;
  if (terms == 0) return std::nullopt;
  const auto width = static_cast<double>(m);
  StabilityPoint p;
  p.m = m;
  p.tau_s = width * tau0_s_;
  p.terms = terms;
  const double weight = order == 2 ? 2.0 : 6.0;
  p.value = std::sqrt(sum / (weight * width * width * static_cast<double>(terms)));
  p.noise = noise_at(m);
  // Samples that are missing are missing in the degrees of freedom too.
  const std::size_t whole = phase_.size() - std::min(gap_count_, phase_.size() - 1);
  p.degrees =
      std::max(1.0, degrees_of_freedom(p.noise, order, m, is_modified, is_overlapped, whole));
  if (estimator == Estimator::time) p.value *= p.tau_s / std::sqrt(3.0);
  constexpr double kOneSigma = 0.6827;
  std::tie(p.low, p.high) = confidence_interval(p, kOneSigma);
  return p;
}

std::vector<StabilityPoint> PhaseRecord::at(Estimator estimator,
                                            std::span<const std::size_t> averages) const {
  std::vector<StabilityPoint> all;
  for (const std::size_t m : averages)
    if (auto p = at(estimator, m)) all.push_back(*p);
  return all;
}

std::vector<std::size_t> averages_of(Averages which, std::size_t phase_samples) {
  std::vector<std::size_t> all;
  const std::size_t most = phase_samples < 3 ? 0 : (phase_samples - 1) / 2;
  if (which == Averages::all) {
    for (std::size_t m = 1; m <= most; ++m) all.push_back(m);
  } else if (which == Averages::octaves) {
    for (std::size_t m = 1; m <= most; m *= 2) all.push_back(m);
  } else {
    for (std::size_t decade = 1; decade <= most; decade *= 10)
      for (const std::size_t m : {decade, 2 * decade, 4 * decade})
        if (m <= most) all.push_back(m);
  }
  return all;
}

}  // namespace heron
