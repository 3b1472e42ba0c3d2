#pragma once

#include <complex>
#include <cstdint>
#include <optional>
#include <random>
#include <vector>

#include "core/signal/envelope_model.h"

namespace heron {

/// A two-tone test as a receiver at baseband would record it. Amplitudes are in full-scale units
/// (1 = 0 dBFS); levels in dB are relative to one tone unless they say otherwise.
struct TwoToneSignal {
  double sample_rate_hz = 48000.0;
  double seconds = 10.0;
  double f1_hz = 650.0;
  double f2_hz = 1850.0;
  double amplitude = 0.25;    ///< of tone 1 before the nonlinearity
  double imbalance_db = 0.0;  ///< tone 2 lower than tone 1 by this
  EnvelopePolynomial nonlinearity;
  double upper_memory_db = 0.0;  ///< raises products above the tones against those below
  std::optional<double> carrier_dbc;
  std::optional<double> image_dbc;
  std::optional<double> dc_dbc;
  std::optional<double> hum_dbc;     ///< 100 Hz sidebands on both tones
  double drift_hz = 0.0;             ///< linear drift over the record
  std::optional<double> noise_dbfs;  ///< total noise power in the sampled bandwidth
  double clip_level = 1e9;           ///< I and Q are limited to this
  int bits = 0;                      ///< 0 = no quantisation
  std::uint64_t seed = 1;
};

std::vector<std::complex<float>> generate_two_tone(const TwoToneSignal& signal);

/// Sum of complex sinusoids; frequency in Hz, amplitude in full-scale units.
struct Sinusoid {
  double frequency_hz;
  std::complex<double> amplitude;
};
std::vector<std::complex<float>> generate_sinusoids(const std::vector<Sinusoid>& lines,
                                                    double rate_hz, std::size_t frames,
                                                    double noise_dbfs, std::uint64_t seed);

/// Complex white Gaussian noise with the given total power, added in place.
void add_noise(std::vector<std::complex<float>>& samples, double noise_dbfs,
               std::mt19937_64& random);

}  // namespace heron
