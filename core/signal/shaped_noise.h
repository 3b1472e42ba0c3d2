#pragma once

#include <cstdint>
#include <functional>
#include <vector>

namespace heron {

/// Real Gaussian noise of a one-sided density (power per Hz at a frequency), `size` samples, a
/// power of two: it repeats seamlessly after that. Made in the frequency domain.
std::vector<float> shaped_noise(std::size_t size, double rate_hz,
                                const std::function<double(double hz)>& density,
                                std::uint64_t seed);

}  // namespace heron
