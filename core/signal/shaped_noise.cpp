#include "core/signal/shaped_noise.h"

#include <bit>
#include <cassert>
#include <cmath>
#include <random>

#include "core/signal/fft.h"
#include "core/signal/normal_numbers.h"

namespace heron {

std::vector<float> shaped_noise(std::size_t size, double rate_hz,
                                const std::function<double(double hz)>& density,
                                std::uint64_t seed) {
  assert(std::has_single_bit(size));
  std::mt19937_64 random(seed);
  NormalNumbers<double> normal;
  Fft fft(size, true, PlanEffort::quick);
  const auto in = fft.input();
  std::fill(in.begin(), in.end(), 0.0F);
  const double bin_hz = rate_hz / static_cast<double>(size);
  // Of the sum of all positive frequencies the real part has half the power, and density is
  // one-sided: each bin carries density times width.
  for (std::size_t k = 1; k < size / 2; ++k) {
    const double amplitude = std::sqrt(density(static_cast<double>(k) * bin_hz) * bin_hz);
    in[2 * k] = static_cast<float>(amplitude * normal(random));
    in[2 * k + 1] = static_cast<float>(amplitude * normal(random));
  }
  // A forward transform runs through time backwards: noise does not mind.
  fft.run();
  std::vector<float> all(size);
  for (std::size_t i = 0; i < size; ++i) all[i] = fft.output()[i].real();
  return all;
}

}  // namespace heron
