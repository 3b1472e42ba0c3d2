#include "core/signal/half_band.h"

#include <cmath>
#include <numbers>

namespace heron {
namespace {

constexpr double kStopDb = 120.0;

/// Modified Bessel function I0 by its series.
double bessel_i0(double x) {
  double sum = 1.0;
  double term = 1.0;
  for (int k = 1; k < 200 && term > 1e-18 * sum; ++k) {
    term *= (x / (2.0 * k)) * (x / (2.0 * k));
    sum += term;
  }
  return sum;
}

}  // namespace

HalfBand::HalfBand(double passband) {
  // Passband and stopband lie symmetrically round a quarter of the input rate.
  const double transition = 0.5 - passband;
  const double beta = 0.1102 * (kStopDb - 8.7);
  const auto taps =
      static_cast<std::size_t>(std::ceil((kStopDb - 7.95) / (14.36 * transition))) + 1;
  const std::size_t pairs = taps / 4 + 1;
  const double half_length = 2.0 * static_cast<double>(pairs);
  double sum = 0.0;
  std::vector<double> exact;
  for (std::size_t k = 0; k < pairs; ++k) {
    const double n = 2.0 * static_cast<double>(k) + 1.0;
    const double x = n / half_length;
    const double window = bessel_i0(beta * std::sqrt(1.0 - x * x)) / bessel_i0(beta);
    exact.push_back(std::sin(std::numbers::pi * n / 2.0) / (std::numbers::pi * n) * window);
    sum += 2.0 * exact.back();
  }
  // The middle tap is one half: the others add up to the other half, exactly 0 dB at 0 Hz.
  for (const double c : exact) coefficients_.push_back(static_cast<float>(c * 0.5 / sum));
  reset();
}

void HalfBand::reset() {
  // Output n is made from even input n and odd inputs n - pairs .. n + pairs - 1.
  next_is_odd_ = false;
  even_.clear();
  odd_.assign(coefficients_.size(), {});
}

void HalfBand::push(std::span<const std::complex<float>> in,
                    std::vector<std::complex<float>>& out) {
  std::size_t at = 0;
  if (next_is_odd_ && !in.empty()) {
    odd_.push_back(in[0]);
    at = 1;
    next_is_odd_ = false;
  }
  for (; at + 1 < in.size(); at += 2) {
    even_.push_back(in[at]);
    odd_.push_back(in[at + 1]);
  }
  if (at < in.size()) {
    even_.push_back(in[at]);
    next_is_odd_ = true;
  }
  const std::size_t pairs = coefficients_.size();
  if (odd_.size() < 2 * pairs) return;
  const std::size_t count = std::min(even_.size(), odd_.size() - 2 * pairs + 1);
  if (count == 0) return;
  const std::size_t begin = out.size();
  out.resize(begin + count);
  float* y = reinterpret_cast<float*>(out.data() + begin);
  const float* e = reinterpret_cast<const float*>(even_.data());
  const std::size_t floats = 2 * count;
  for (std::size_t i = 0; i < floats; ++i) y[i] = 0.5F * e[i];
  for (std::size_t k = 0; k < pairs; ++k) {
    // Odd input m stands at odd_[m + pairs] of the stream's start: left n - 1 - k, right n + k.
    const float* left = reinterpret_cast<const float*>(odd_.data() + (pairs - 1 - k));
    const float* right = reinterpret_cast<const float*>(odd_.data() + (pairs + k));
    const float c = coefficients_[k];
    for (std::size_t i = 0; i < floats; ++i) y[i] += c * (left[i] + right[i]);
  }
  even_.erase(even_.begin(), even_.begin() + static_cast<std::ptrdiff_t>(count));
  odd_.erase(odd_.begin(), odd_.begin() + static_cast<std::ptrdiff_t>(count));
}

}  // namespace heron
