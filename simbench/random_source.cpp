#include "simbench/random_source.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/signal/normal_numbers.h"

namespace heron::sim {
namespace {

constexpr std::size_t kTable = std::size_t{1} << 19U;
constexpr std::size_t kPiece = 509;  // prime, so that pieces never line up with transforms

const std::vector<std::complex<float>>& table() {
  static const std::vector<std::complex<float>> values = [] {
    std::mt19937_64 random(20240229);
    NormalNumbers<float> gauss(0.0F, std::sqrt(0.5F));
    std::vector<std::complex<float>> out(kTable);
    for (auto& v : out) v = {gauss(random), gauss(random)};
    return out;
  }();
  return values;
}

}  // namespace

double drawn_error(std::mt19937_64& random, double sigma) {
  if (sigma <= 0.0) return 0.0;
  NormalNumbers<double> gauss(0.0, sigma);
  double error = gauss(random);
  while (std::abs(error) > 3.0 * sigma) error = gauss(random);
  return error;
}

void add_white_noise(std::span<std::complex<float>> samples, double power,
                     std::mt19937_64& random) {
  if (!(power > 0.0)) return;
  const auto& values = table();
  const auto sigma = static_cast<float>(std::sqrt(power));
  for (std::size_t at = 0; at < samples.size(); at += kPiece) {
    const std::uint64_t draw = random();
    const std::size_t from = draw % (kTable - kPiece);
    // A quarter turn, a conjugate: eight looks of each piece.
    const std::uint64_t turn = draw >> 61U;
    const auto re = static_cast<float>((turn & 1U) != 0 ? -sigma : sigma);
    const auto im = static_cast<float>((turn & 2U) != 0 ? -sigma : sigma);
    const bool swapped = (turn & 4U) != 0;
    const std::size_t count = std::min(kPiece, samples.size() - at);
    for (std::size_t i = 0; i < count; ++i) {
      const std::complex<float> v = values[from + i];
      samples[at + i] += swapped ? std::complex<float>(re * v.imag(), im * v.real())
                                 : std::complex<float>(re * v.real(), im * v.imag());
    }
  }
}

}  // namespace heron::sim
