#pragma once

#include <complex>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "core/signal/averaging.h"

namespace heron {

/// Mean spectra of the real and of the imaginary part of a stream, seen at one of its rates:
/// one-sided densities per bin, Blackman-Harris windows (Welch 1967).
struct StageSpectrum {
  double rate_hz = 0.0;
  std::size_t segment = 0;
  double low_hz = 0.0;  ///< it is the one to look at from here
  double high_hz = 0.0;
  std::vector<double> real;  ///< bins 0 .. segment / 2
  std::vector<double> imaginary;
  std::size_t averages = 0;
  AveragingStatistics statistics;
  double bin_hz() const { return rate_hz / static_cast<double>(segment); }
};

/// Spectra over many decades at a cost that hardly depends on how many: the stream is halved in
/// rate again and again, and each rate shows the octave it is best for. Memory does not grow with
/// it.
class NoiseCascade {
 public:
  /// For a stream of about so many samples; true up to `top_hz`. InputError if it is too short.
  NoiseCascade(double rate_hz, std::int64_t samples, double top_hz);
  ~NoiseCascade();
  void push(std::span<const std::complex<float>> samples);
  /// What comes next does not join on to what came.
  void gap();
  /// From the highest rate down; those that saw nothing are left out.
  std::vector<StageSpectrum> spectra() const;

  /// Fewer samples show nothing.
  static constexpr std::int64_t kLeastSamples = 1536;

 private:
  class Stage;
  std::vector<std::unique_ptr<Stage>> stages_;
  double top_hz_ = 0.0;
  std::vector<std::complex<float>> from_;
  std::vector<std::complex<float>> to_;
};

}  // namespace heron
