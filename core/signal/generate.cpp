#include "core/signal/generate.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/two_pi.h"

namespace heron {
namespace {

double amplitude_of(const std::optional<double>& dbc, double reference) {
  return dbc ? reference * voltage_ratio_from_db(*dbc) : 0.0;
}

float quantised(double value, int bits, std::mt19937_64& random) {
  const double steps = std::ldexp(1.0, bits - 1);
  // Triangular dither keeps the rounding error from becoming lines of its own.
  std::uniform_real_distribution<double> half(-0.5, 0.5);
  const double rounded = std::round(value * steps + half(random) + half(random));
  return static_cast<float>(std::clamp(rounded, -steps, steps - 1.0) / steps);
}

}  // namespace

std::vector<std::complex<float>> generate_two_tone(const TwoToneSignal& s) {
  std::mt19937_64 random(s.seed);
  const auto frames = static_cast<std::size_t>(std::llround(s.seconds * s.sample_rate_hz));
  const double a1 = s.amplitude;
  const double a2 = s.amplitude * voltage_ratio_from_db(-s.imbalance_db);
  const double carrier = amplitude_of(s.carrier_dbc, a1);
  const double dc = amplitude_of(s.dc_dbc, a1);
  const double image = s.image_dbc ? voltage_ratio_from_db(*s.image_dbc) : 0.0;
  const double hum = s.hum_dbc ? 2.0 * voltage_ratio_from_db(*s.hum_dbc) : 0.0;
  std::uniform_real_distribution<double> any_phase(0.0, kTwoPi);
  const double p1 = any_phase(random);
  const double p2 = any_phase(random);
  const double pc = any_phase(random);
  // A product above the tones grows and one below shrinks by a gain that slopes with frequency.
  const double spacing = s.f2_hz - s.f1_hz;
  const double middle = (s.f1_hz + s.f2_hz) / 2.0;

  std::vector<std::complex<float>> out(frames);
  NormalNumbers<double> gauss(0.0, 1.0);
  const double sigma = s.noise_dbfs ? std::sqrt(power_ratio_from_db(*s.noise_dbfs) / 2.0) : 0.0;
  std::complex<double> previous = 0.0;
  for (std::size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / s.sample_rate_hz;
    const double drift = kTwoPi * s.drift_hz * t * t / (2.0 * s.seconds);
    const std::complex<double> x =
        std::polar(a1, kTwoPi * s.f1_hz * t + p1) + std::polar(a2, kTwoPi * s.f2_hz * t + p2);
    std::complex<double> y = s.nonlinearity.apply(x);
    if (s.upper_memory_db != 0.0) {
      const std::complex<double> product = (y - x) * std::polar(1.0, -kTwoPi * middle * t);
      const double k =
          std::log(voltage_ratio_from_db(s.upper_memory_db)) / (kTwoPi * 3.0 * spacing);
      const std::complex<double> slope = (product - previous) * s.sample_rate_hz;
      previous = product;
      y = x +
          (product + std::complex<double>(0.0, -k) * slope) * std::polar(1.0, kTwoPi * middle * t);
    }
    y *= 1.0 + hum * std::cos(kTwoPi * 100.0 * t);
    y += std::polar(carrier, pc);
    y *= std::polar(1.0, drift);
    y += image * std::conj(y) + dc;
    if (sigma > 0.0) y += std::complex<double>(sigma * gauss(random), sigma * gauss(random));
    double re = std::clamp(y.real(), -s.clip_level, s.clip_level);
    double im = std::clamp(y.imag(), -s.clip_level, s.clip_level);
    if (s.bits > 0) {
      re = quantised(re, s.bits, random);
      im = quantised(im, s.bits, random);
    }
    out[i] = {static_cast<float>(re), static_cast<float>(im)};
  }
  return out;
}

std::vector<std::complex<float>> generate_sinusoids(const std::vector<Sinusoid>& lines,
                                                    double rate_hz, std::size_t frames,
                                                    double noise_dbfs, std::uint64_t seed) {
  std::vector<std::complex<float>> out(frames);
  for (std::size_t i = 0; i < frames; ++i) {
    std::complex<double> sum = 0.0;
    for (const Sinusoid& line : lines) {
      sum += line.amplitude *
             std::polar(1.0, kTwoPi * line.frequency_hz * static_cast<double>(i) / rate_hz);
    }
    out[i] = std::complex<float>(sum);
  }
  std::mt19937_64 random(seed);
  add_noise(out, noise_dbfs, random);
  return out;
}

void add_noise(std::vector<std::complex<float>>& samples, double noise_dbfs,
               std::mt19937_64& random) {
  NormalNumbers<double> gauss(0.0, std::sqrt(power_ratio_from_db(noise_dbfs) / 2.0));
  for (auto& v : samples) {
    v += std::complex<float>(static_cast<float>(gauss(random)), static_cast<float>(gauss(random)));
  }
}

}  // namespace heron
