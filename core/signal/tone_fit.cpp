#include "core/signal/tone_fit.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/signal/dense.h"
#include "core/signal/fft.h"
#include "core/signal/two_pi.h"

namespace heron {
namespace {

using Complex = std::complex<double>;

/// e^{j w (i - middle)} by recurrence, restarted often enough to stay exact.
class Rotator {
 public:
  Rotator(double radians_per_sample, double middle) : w_(radians_per_sample), middle_(middle) {}
  Complex at(std::size_t i) {
    if (i % 512 == 0) {
      value_ = std::polar(1.0, w_ * (static_cast<double>(i) - middle_));
      step_ = std::polar(1.0, w_);
    } else {
      value_ *= step_;
    }
    return value_;
  }

 private:
  double w_;
  double middle_;
  Complex value_;
  Complex step_;
};

struct Problem {
  std::span<const Complex> samples;
  bool is_real;
  std::vector<double> weights;  // empty = 1
  double middle;
  double weight(std::size_t i) const { return weights.empty() ? 1.0 : weights[i]; }
};

/// Normal equations over `columns` complex basis columns given per sample; a real record sees only
/// the real part of each.
class NormalEquations {
 public:
  explicit NormalEquations(Eigen::Index columns)
      : matrix(Eigen::MatrixXd::Zero(columns, columns)), right(Eigen::VectorXd::Zero(columns)) {}
  void add(const std::vector<Complex>& row, Complex residual, double weight, bool is_real) {
    const auto n = static_cast<Eigen::Index>(row.size());
    for (Eigen::Index a = 0; a < n; ++a) {
      const Complex ca = row[static_cast<std::size_t>(a)];
      right(a) +=
          weight * (ca.real() * residual.real() + (is_real ? 0.0 : ca.imag() * residual.imag()));
      for (Eigen::Index b = a; b < n; ++b) {
        const Complex cb = row[static_cast<std::size_t>(b)];
        matrix(a, b) += weight * (ca.real() * cb.real() + (is_real ? 0.0 : ca.imag() * cb.imag()));
      }
    }
  }
  Eigen::VectorXd solve() {
    mirror();
    return solved_symmetric(matrix, right);
  }
  void mirror() { matrix = matrix.selfadjointView<Eigen::Upper>(); }
  Eigen::MatrixXd matrix;
  Eigen::VectorXd right;
};

/// Amplitudes (at the middle of the record) for fixed frequencies.
std::vector<Complex> linear_amplitudes(const Problem& p, const std::vector<double>& w) {
  NormalEquations equations(static_cast<Eigen::Index>(2 * w.size()));
  std::vector<Rotator> rotators;
  for (const double wi : w) rotators.emplace_back(wi, p.middle);
  std::vector<Complex> row(2 * w.size());
  for (std::size_t i = 0; i < p.samples.size(); ++i) {
    for (std::size_t m = 0; m < w.size(); ++m) {
      row[2 * m] = rotators[m].at(i);
      row[2 * m + 1] = Complex(0.0, 1.0) * row[2 * m];
    }
    equations.add(row, p.samples[i], p.weight(i), p.is_real);
  }
  const Eigen::VectorXd solution = equations.solve();
  std::vector<Complex> amplitudes;
  for (std::size_t m = 0; m < w.size(); ++m) {
    const auto k = static_cast<Eigen::Index>(2 * m);
    amplitudes.emplace_back(solution(k), solution(k + 1));
  }
  return amplitudes;
}

struct Step {
  Eigen::VectorXd change;
  Eigen::MatrixXd inverse;
  double residual_power = 0.0;  // weighted mean square
};

/// One Gauss-Newton step; columns per tone are dRe A, dIm A, dw.
Step gauss_newton_step(const Problem& p, const std::vector<double>& w,
                       const std::vector<Complex>& a, bool with_covariance) {
  const std::size_t tones = w.size();
  NormalEquations equations(static_cast<Eigen::Index>(3 * tones));
  std::vector<Rotator> rotators;
  for (const double wi : w) rotators.emplace_back(wi, p.middle);
  std::vector<Complex> row(3 * tones);
  double power = 0.0;
  double weight_sum = 0.0;
  for (std::size_t i = 0; i < p.samples.size(); ++i) {
    const double t = static_cast<double>(i) - p.middle;
    Complex residual = p.samples[i];
    for (std::size_t m = 0; m < tones; ++m) {
      const Complex e = rotators[m].at(i);
      const Complex line = a[m] * e;
      residual -= p.is_real ? Complex(line.real(), 0.0) : line;
      row[3 * m] = e;
      row[3 * m + 1] = Complex(-e.imag(), e.real());
      row[3 * m + 2] = Complex(-line.imag() * t, line.real() * t);
    }
    const double weight = p.weight(i);
    power += weight * std::norm(residual);
    weight_sum += weight;
    equations.add(row, residual, weight, p.is_real);
  }
  Step step;
  step.change = equations.solve();
  step.residual_power = power / weight_sum;
  if (with_covariance) {
    step.inverse = inverse_symmetric(equations.matrix);
  }
  return step;
}

/// Index of the strongest bin of a four times zero-padded Hann periodogram, as a frequency in
/// radians per sample.
double strongest_frequency(const std::vector<Complex>& residual, bool is_real,
                           const std::function<bool(double)>& is_looked_at) {
  std::size_t size = 1;
  while (size < 4 * residual.size()) size *= 2;
  Fft fft(size, true, PlanEffort::quick);
  const auto in = fft.input();
  std::fill(in.begin(), in.end(), 0.0F);
  const double n = static_cast<double>(residual.size());
  for (std::size_t i = 0; i < residual.size(); ++i) {
    // Rectangular would resolve best but its skirts of a strong tone hide a weak neighbour.
    const double hann = 0.5 - 0.5 * std::cos(kTwoPi * (static_cast<double>(i) + 0.5) / n);
    in[2 * i] = static_cast<float>(hann * residual[i].real());
    in[2 * i + 1] = static_cast<float>(hann * residual[i].imag());
  }
  fft.run();
  const auto out = fft.output();
  const auto place = [size](std::size_t k) {
    const double w = kTwoPi * static_cast<double>(k) / static_cast<double>(size);
    return w > std::numbers::pi ? w - kTwoPi : w;
  };
  std::size_t best = is_real ? 1 : 0;
  float most = -1.0F;
  for (std::size_t k = best; k < (is_real ? size / 2 : size); ++k) {
    if (std::norm(out[k]) <= most || (is_looked_at && !is_looked_at(place(k)))) continue;
    most = std::norm(out[k]);
    best = k;
  }
  return place(best);
}

}  // namespace

std::vector<ToneEstimate> fit_tones(std::span<const Complex> samples, double rate_hz,
                                    std::span<const double> start_hz, bool is_real,
                                    const ToneFitOptions& options) {
  Problem p{samples, is_real, {}, (static_cast<double>(samples.size()) - 1.0) / 2.0};
  if (options.hann_weights) {
    p.weights.resize(samples.size());
    for (std::size_t i = 0; i < samples.size(); ++i) {
      p.weights[i] = 0.5 - 0.5 * std::cos(kTwoPi * (static_cast<double>(i) + 0.5) /
                                          static_cast<double>(samples.size()));
    }
  }
  std::vector<double> w;
  for (const double f : start_hz) w.push_back(kTwoPi * f / rate_hz);
  const double bin = kTwoPi / static_cast<double>(samples.size());
  std::vector<Complex> a = linear_amplitudes(p, w);
  Step step;
  for (int iteration = 0; iteration < options.iterations; ++iteration) {
    step = gauss_newton_step(p, w, a, false);
    double largest = 0.0;
    for (std::size_t m = 0; m < w.size(); ++m) {
      const auto k = static_cast<Eigen::Index>(3 * m);
      // Half a bin a step keeps a bad start from jumping to another line.
      const double move = std::clamp(step.change(k + 2), -0.5 * bin, 0.5 * bin);
      w[m] += move;
      largest = std::max(largest, std::abs(move));
    }
    a = linear_amplitudes(p, w);
    if (largest < 1e-7 * bin) break;
  }
  step = gauss_newton_step(p, w, a, true);
  const double freedom = std::max(1.0, (is_real ? 1.0 : 2.0) * static_cast<double>(samples.size()) -
                                           3.0 * static_cast<double>(w.size()));
  const double variance = step.residual_power * static_cast<double>(samples.size()) / freedom;
  std::vector<ToneEstimate> tones;
  for (std::size_t m = 0; m < w.size(); ++m) {
    const auto k = static_cast<Eigen::Index>(3 * m);
    ToneEstimate tone;
    tone.frequency_hz = w[m] * rate_hz / kTwoPi;
    tone.amplitude = a[m] * std::polar(1.0, -w[m] * p.middle);
    tone.u_frequency_hz =
        std::sqrt(variance * std::max(0.0, step.inverse(k + 2, k + 2))) * rate_hz / kTwoPi;
    tone.u_amplitude = std::sqrt(
        variance * std::max(0.0, (step.inverse(k, k) + step.inverse(k + 1, k + 1)) / 2.0));
    tones.push_back(tone);
  }
  return tones;
}

std::vector<ToneEstimate> estimate_tones(std::span<const Complex> samples, double rate_hz,
                                         std::size_t count, bool is_real,
                                         const std::function<bool(double)>& is_looked_at) {
  std::function<bool(double)> is_allowed;  // of radians per sample
  if (is_looked_at) is_allowed = [&](double w) { return is_looked_at(w * rate_hz / kTwoPi); };
  std::vector<Complex> residual(samples.begin(), samples.end());
  std::vector<double> start;
  std::vector<ToneEstimate> tones;
  while (tones.size() < count) {
    start.push_back(strongest_frequency(residual, is_real, is_allowed) * rate_hz / kTwoPi);
    ToneFitOptions options;
    options.iterations = tones.size() + 1 == count ? 40 : 15;
    tones = fit_tones(samples, rate_hz, start, is_real, options);
    if (tones.size() == count) break;
    start.clear();
    for (const ToneEstimate& tone : tones) start.push_back(tone.frequency_hz);
    for (std::size_t i = 0; i < samples.size(); ++i) {
      Complex model = 0.0;
      for (const ToneEstimate& tone : tones) {
        model += tone.amplitude *
                 std::polar(1.0, kTwoPi * tone.frequency_hz * static_cast<double>(i) / rate_hz);
      }
      residual[i] = samples[i] - (is_real ? Complex(model.real(), 0.0) : model);
    }
  }
  std::sort(tones.begin(), tones.end(), [](const ToneEstimate& a, const ToneEstimate& b) {
    return a.frequency_hz < b.frequency_hz;
  });
  return tones;
}

}  // namespace heron
