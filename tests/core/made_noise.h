#pragma once

#include <cmath>
#include <complex>
#include <numbers>
#include <random>
#include <vector>

#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"

namespace heron::testing {

/// A carrier whose phase wanders by sums of power laws, made sample by sample, so that its L(f) is
/// known exactly: white, flicker (a sum of relaxations), and both integrated.
struct MadeNoise {
  double rate_hz = 100e3;
  std::size_t frames = 400000;
  double carrier_hz = 3123.4;
  double amplitude = 0.4;
  double drift_hz_per_s = 0.0;
  // Each as L at 1 kHz, dBc/Hz; NaN = none.
  double white = std::nan("");
  double flicker = std::nan("");
  double white_frequency = std::nan("");
  double flicker_frequency = std::nan("");
  double walk = std::nan("");
  double added_dbfs = -300.0;  ///< white noise of the recorder
  double am_white = std::nan("");
  struct Line {
    double offset_hz = 0.0;
    double level_dbc = 0.0;  ///< of each sideband
    bool is_one_sided = false;
    bool is_am = false;
  };
  std::vector<Line> lines = {};
  std::uint64_t seed = 1;

  static constexpr int kPoles = 12;  // two an octave and a half: flicker within 0.1 dB
  double pole(int i) const {
    return 0.3 * rate_hz * std::pow(4.0, -i) * 2.0 * std::numbers::pi / rate_hz;
  }
  /// |H|^2 of a running sum.
  double sum_gain(double hz) const {
    const double s = 2.0 * std::sin(std::numbers::pi * hz / rate_hz);
    return 1.0 / (s * s);
  }
  double flicker_gain(double hz) const {
    double sum = 0.0;
    for (int i = 0; i < kPoles; ++i) {
      const double a = std::exp(-pole(i));
      const std::complex<double> h =
          1.0 - a * std::polar(1.0, -2.0 * std::numbers::pi * hz / rate_hz);
      // Each has the same power over an octave.
      sum += pole(i) / std::norm(h);
    }
    return sum;
  }
  struct Scale {
    double white, flicker, white_frequency, flicker_frequency, walk;
  };
  /// Standard deviations of what goes into each.
  Scale scale() const {
    const auto of = [this](double level, double gain) {
      return std::isnan(level) ? 0.0 : std::sqrt(std::pow(10.0, level / 10.0) * rate_hz / gain);
    };
    constexpr double kAt = 1000.0;
    const double sum = sum_gain(kAt);
    const double pink = flicker_gain(kAt);
    return {of(white, 1.0), of(flicker, pink), of(white_frequency, sum),
            of(flicker_frequency, pink * sum), of(walk, sum * sum)};
  }
  double l(double hz) const {
    const Scale s = scale();
    const double sum = sum_gain(hz);
    const double pink = flicker_gain(hz);
    double power = s.white * s.white + s.flicker * s.flicker * pink +
                   s.white_frequency * s.white_frequency * sum +
                   s.flicker_frequency * s.flicker_frequency * pink * sum +
                   s.walk * s.walk * sum * sum;
    power /= rate_hz;
    // Half of what is added is phase.
    power += std::pow(10.0, added_dbfs / 10.0) / rate_hz / (2.0 * amplitude * amplitude);
    return 10.0 * std::log10(power);
  }
  /// Mean power over a logarithmic bin.
  double mean_l(double hz, int per_decade) const {
    constexpr int kParts = 200;
    const double from = hz * std::pow(10.0, -0.5 / per_decade);
    const double to = hz * std::pow(10.0, 0.5 / per_decade);
    double power = 0.0;
    for (int i = 0; i < kParts; ++i)
      power += std::pow(10.0, l(from + (to - from) * (i + 0.5) / kParts) / 10.0) / kParts;
    return 10.0 * std::log10(power);
  }

  std::vector<std::complex<float>> samples() const {
    std::mt19937_64 random(seed);
    NormalNumbers<double> normal;
    const Scale s = scale();
    double pink_p[kPoles] = {};
    double pink_f[kPoles] = {};
    double a[kPoles];
    double g[kPoles];
    for (int i = 0; i < kPoles; ++i) {
      a[i] = std::exp(-pole(i));
      g[i] = std::sqrt(pole(i));
      // As if it had always been on.
      const double stands = g[i] / std::sqrt(1.0 - a[i] * a[i]);
      pink_p[i] = stands * normal(random);
      pink_f[i] = stands * normal(random);
    }
    double white_sum = 0.0;
    double flicker_sum = 0.0;
    double walk_frequency = 0.0;
    double walk_sum = 0.0;
    const double noise = std::sqrt(std::pow(10.0, added_dbfs / 10.0) / 2.0);
    const double am =
        std::isnan(am_white) ? 0.0 : std::sqrt(std::pow(10.0, am_white / 10.0) * rate_hz);
    std::vector<std::complex<float>> all(frames);
    for (std::size_t n = 0; n < frames; ++n) {
      const double t = static_cast<double>(n) / rate_hz;
      double phase = 0.0;
      if (s.white > 0.0) phase += s.white * normal(random);
      if (s.white_frequency > 0.0) phase += white_sum += s.white_frequency * normal(random);
      if (s.walk > 0.0) {
        walk_frequency += s.walk * normal(random);
        phase += walk_sum += walk_frequency;
      }
      const auto pink = [&](double* state) {
        double sum = 0.0;
        for (int i = 0; i < kPoles; ++i) {
          state[i] = a[i] * state[i] + g[i] * normal(random);
          sum += state[i];
        }
        return sum;
      };
      if (s.flicker > 0.0) phase += s.flicker * pink(pink_p);
      if (s.flicker_frequency > 0.0) phase += flicker_sum += s.flicker_frequency * pink(pink_f);
      double amount = 1.0;
      std::complex<double> beside = 0.0;
      for (const Line& line : lines) {
        const double turns = 2.0 * std::numbers::pi * line.offset_hz * t;
        const double level = std::pow(10.0, line.level_dbc / 20.0);
        if (line.is_one_sided)
          beside += std::polar(level, turns);
        else if (line.is_am)
          amount += 2.0 * level * std::sin(turns);
        else
          phase += 2.0 * level * std::sin(turns);
      }
      if (am > 0.0) amount += am * normal(random);
      phase += 2.0 * std::numbers::pi * (carrier_hz * t + 0.5 * drift_hz_per_s * t * t);
      std::complex<double> x = amplitude * (amount + beside) * std::polar(1.0, phase);
      if (added_dbfs > -250.0)
        x += std::complex<double>(noise * normal(random), noise * normal(random));
      all[n] = std::complex<float>(x);
    }
    return all;
  }
  CaptureOpener open() const { return memory_capture(samples(), rate_hz); }
};

}  // namespace heron::testing
