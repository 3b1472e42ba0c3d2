#pragma once

#include <complex>
#include <vector>

namespace heron {

/// Memoryless complex-envelope polynomial y = x (1 + c3 |x|^2 + c5 |x|^4 + ...): the usual
/// baseband model of a band-limited power amplifier.
struct EnvelopePolynomial {
  std::vector<std::complex<double>> coefficients;  ///< c3, c5, c7, ...
  std::complex<double> apply(std::complex<double> x) const;
};

/// Exact amplitudes that the polynomial gives for two equal tones of amplitude `a` (full scale 1):
/// element 0 the fundamental, k the product of order 2k + 1 (one side). By the expansion of
/// |x|^2m x for x = a (e^{ju} + e^{-ju}).
std::vector<std::complex<double>> two_tone_amplitudes(const EnvelopePolynomial& model, double a);

}  // namespace heron
