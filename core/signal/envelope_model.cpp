#include "core/signal/envelope_model.h"

#include <cmath>

namespace heron {
namespace {

double binomial(int n, int k) {
  double value = 1.0;
  for (int i = 1; i <= k; ++i) value = value * (n - k + i) / i;
  return value;
}

}  // namespace

std::complex<double> EnvelopePolynomial::apply(std::complex<double> x) const {
  const double power = std::norm(x);
  std::complex<double> gain = 0.0;
  for (auto c = coefficients.rbegin(); c != coefficients.rend(); ++c) gain = (gain + *c) * power;
  return x * (1.0 + gain);
}

std::vector<std::complex<double>> two_tone_amplitudes(const EnvelopePolynomial& model, double a) {
  // x = 2a cos u, so |x|^2m x = (2a)^n cos^n u, n = 2m + 1, and the coefficient of e^{j(2k+1)u} is
  // a^n C(n, m - k).
  const int terms = static_cast<int>(model.coefficients.size());
  std::vector<std::complex<double>> amplitudes(static_cast<std::size_t>(terms) + 1, 0.0);
  for (int m = 0; m <= terms; ++m) {
    const std::complex<double> c =
        m == 0 ? 1.0 : model.coefficients[static_cast<std::size_t>(m - 1)];
    const int n = 2 * m + 1;
    for (int k = 0; k <= m; ++k) {
      amplitudes[static_cast<std::size_t>(k)] += c * std::pow(a, n) * binomial(n, m - k);
    }
  }
  return amplitudes;
}

}  // namespace heron
