#pragma once

#include <complex>
#include <span>
#include <vector>

namespace heron {

/// Halves the rate of a complex stream: linear-phase half-band filter (Kaiser design), ripple and
/// aliases 120 dB down up to `passband` of the output rate (below 0.5).
class HalfBand {
 public:
  explicit HalfBand(double passband);
  /// Appends the outputs that `in` completes. Output n belongs to input 2 n of the stream; the
  /// stream is taken as zero before its start.
  void push(std::span<const std::complex<float>> in, std::vector<std::complex<float>>& out);
  void reset();
  /// Inputs on each side that an output is made from.
  std::size_t reach() const { return 2 * coefficients_.size() - 1; }

 private:
  std::vector<float> coefficients_;  ///< of the odd distances 1, 3, 5, ... from the middle
  std::vector<std::complex<float>> even_;
  std::vector<std::complex<float>> odd_;
  bool next_is_odd_ = false;
};

}  // namespace heron
