#pragma once

#include <complex>
#include <cstdint>
#include <random>
#include <span>

namespace heron::sim {

/// Normal deviates with standard deviation `sigma`, but never beyond three of them: the error of an
/// instrument that keeps what its maker states.
double drawn_error(std::mt19937_64& random, double sigma);

/// Adds complex white Gaussian noise of the given mean power. Fast enough for a million samples in
/// some milliseconds: pieces of one long draw, taken and turned at random.
void add_white_noise(std::span<std::complex<float>> samples, double power, std::mt19937_64& random);

}  // namespace heron::sim
