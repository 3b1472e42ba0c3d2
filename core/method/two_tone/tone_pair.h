#pragma once

#include <string>
#include <utility>
#include <vector>

namespace heron {

/// An audio line of the source that falls on a transmitter product.
struct ToneCollision {
  std::string product;  ///< "3rd order upper, 2700 Hz"
  std::string audio;    ///< "3 x 900 Hz = 2700 Hz"
  double distance_hz = 0.0;
};

/// Collisions of a tone pair (0 < f1 < f2, Hz): products of order 3, 5, 7 with their sign (negative
/// = other side of the carrier) against harmonics 2..5 of each tone and a f1 +- b f2, a + b even,
/// up to 6, as positive audio frequencies. Closer than 3 x rbw_hz makes the pair unusable.
std::vector<ToneCollision> tone_pair_collisions(double f1_hz, double f2_hz, double rbw_hz = 10.0);

/// Why a pair cannot be used whatever falls where: too close together, or outside the audio
/// passband; empty if it can.
std::string tone_pair_trouble(double f1_hz, double f2_hz, double low_hz, double high_hz);

/// Smallest distance between a product and an audio line.
double tone_pair_clearance(double f1_hz, double f2_hz);

/// Pairs on a 50 Hz grid inside the passband with the best clearance, widest first; at most `most`.
std::vector<std::pair<double, double>> suggest_tone_pairs(double low_hz, double high_hz,
                                                          std::size_t most = 5);

}  // namespace heron
