#pragma once

#include <complex>
#include <functional>
#include <span>
#include <vector>

namespace heron {

/// One sinusoid from a least-squares fit (IEEE 1057 sine fit, extended to several tones).
struct ToneEstimate {
  double frequency_hz = 0.0;
  std::complex<double> amplitude;  ///< at the first sample; a real sinusoid's peak
  double u_frequency_hz = 0.0;     ///< standard uncertainty from the residual
  double u_amplitude = 0.0;
};

struct ToneFitOptions {
  int iterations = 12;
  bool hann_weights = false;  ///< suppresses far lines that are not in the model
};

/// Joint nonlinear least squares from starting frequencies within about half a bin (rate / n) of
/// the truth. Samples are complex, or real with zero imaginary part and `is_real` set.
std::vector<ToneEstimate> fit_tones(std::span<const std::complex<double>> samples, double rate_hz,
                                    std::span<const double> start_hz, bool is_real,
                                    const ToneFitOptions& options = {});

/// The `count` strongest sinusoids, where `is_looked_at` allows (everywhere without it), found one
/// after the other and refitted together each time (relaxation), so that tones 1.5 bins or more
/// apart are told apart. Unbiased between bins, and at the Cramer-Rao bound. Returned in order of
/// frequency.
std::vector<ToneEstimate> estimate_tones(std::span<const std::complex<double>> samples,
                                         double rate_hz, std::size_t count, bool is_real,
                                         const std::function<bool(double hz)>& is_looked_at = {});

}  // namespace heron
