#include "core/signal/window.h"

#include <array>
#include <cmath>
#include <numbers>
#include <span>

namespace heron {
namespace {

std::span<const double> cosine_terms(WindowKind kind) {
  static constexpr std::array<double, 1> rectangular{1.0};
  static constexpr std::array<double, 2> hann{0.5, 0.5};
  static constexpr std::array<double, 4> blackman_harris{0.35875, 0.48829, 0.14128, 0.01168};
  static constexpr std::array<double, 5> flat_top{0.21557895, 0.41663158, 0.277263158, 0.083578947,
                                                  0.006947368};
  switch (kind) {
    case WindowKind::rectangular:
      return rectangular;
    case WindowKind::hann:
      return hann;
    case WindowKind::blackman_harris_4:
      return blackman_harris;
    case WindowKind::flat_top:
      return flat_top;
  }
  return rectangular;
}

double sinc(double x) {
  return std::abs(x) < 1e-12 ? 1.0 : std::sin(std::numbers::pi * x) / (std::numbers::pi * x);
}

}  // namespace

std::vector<float> make_window(WindowKind kind, std::size_t n) {
  const auto terms = cosine_terms(kind);
  std::vector<float> window(n);
  for (std::size_t i = 0; i < n; ++i) {
    const double phase = 2.0 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(n);
    double value = 0.0;
    double sign = 1.0;
    for (std::size_t k = 0; k < terms.size(); ++k, sign = -sign) {
      value += sign * terms[k] * std::cos(static_cast<double>(k) * phase);
    }
    window[i] = static_cast<float>(value);
  }
  return window;
}

double enbw_bins(WindowKind kind) {
  const auto terms = cosine_terms(kind);
  double sum = terms[0] * terms[0];
  for (std::size_t k = 1; k < terms.size(); ++k) sum += terms[k] * terms[k] / 2.0;
  return sum / (terms[0] * terms[0]);
}

int main_lobe_half_width_bins(WindowKind kind) {
  return static_cast<int>(cosine_terms(kind).size());
}

std::string window_name(WindowKind kind) {
  switch (kind) {
    case WindowKind::rectangular:
      return "rectangular";
    case WindowKind::hann:
      return "hann";
    case WindowKind::blackman_harris_4:
      return "blackman-harris-4";
    case WindowKind::flat_top:
      return "flat-top";
  }
  return "rectangular";
}

double window_response(WindowKind kind, double bins) {
  const auto terms = cosine_terms(kind);
  double value = terms[0] * sinc(bins);
  for (std::size_t k = 1; k < terms.size(); ++k) {
    const double shift = static_cast<double>(k);
    // Seen from its middle the window is a sum of cosines that are all positive there.
    value += terms[k] / 2.0 * (sinc(bins - shift) + sinc(bins + shift));
  }
  return value / terms[0];
}

}  // namespace heron
