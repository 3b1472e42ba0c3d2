#pragma once

#include <QtTest>
#include <cmath>
#include <complex>
#include <cstring>
#include <numbers>
#include <random>
#include <string>
#include <vector>

#include "core/quantity/levels.h"
#include "simbench/sim_world.h"
#include "tests/core/made_chain.h"

namespace heron::testing {

using sim::SimConfig;
using sim::SimWorld;

using Samples = std::vector<std::complex<float>>;

inline constexpr double kDial = 14.2e6;

inline SimConfig bench_config(std::uint64_t seed) {
  SimConfig c;
  c.seed = seed;
  c.time_factor = 1e-6;  // only takes let time pass
  c.chain.parts = {made_part("power pad", "attenuator", -40.0, 0.15),
                   made_part("pad", "attenuator", -20.0, 0.1),
                   made_part("sampler", "instrument", 0.0, 0.5)};
  c.chain.parts[2].full_scale_dbm = 0.0;
  c.chain.parts[2].linearity_u_db = 0.1;
  c.sampler_u_db = 0.5;
  return c;
}

inline void tell(SimWorld& bench, const char* instrument, const std::string& line) {
  if (bench.speak(instrument, line)) qFatal("an answer to %s", line.c_str());
  if (*bench.speak(instrument, "SYST:ERR?") != "0,\"No error\"") qFatal("%s", line.c_str());
}

inline Samples take(SimWorld& bench, double center_hz, double rate_hz, std::size_t frames) {
  tell(bench, "sampler",
       "SENS:FREQ:CENT " + std::to_string(center_hz) + ";SENS:RATE " + std::to_string(rate_hz) +
           ";SENS:COUN " + std::to_string(frames));
  const std::string reply = *bench.speak("sampler", "READ:IQ?");
  Samples x(frames);
  std::memcpy(x.data(), reply.data() + reply.size() - frames * sizeof x[0], frames * sizeof x[0]);
  return x;
}

/// Power of a line in what the device puts out, W, without noise or spurs: a plain sum over whole
/// periods.
class Truth {
 public:
  explicit Truth(SimWorld& bench, int zone = 1) {
    sim::TransmitterDesign clean = bench.config().transmitter;
    clean.noise_dbc_hz = -300.0;
    clean.spurs.clear();
    sim::Transmitter device(clean);
    const sim::Transmitter now = bench.device();
    device.settings = now.settings;
    device.audio = now.audio;
    device.surroundings = now.surroundings;
    std::mt19937_64 random(1);
    x_.resize(48000);
    if (const auto amplifier = bench.amplifier()) {
      device.output(device.carrier_hz(), 48000.0, 0.0, x_, random);
      amplifier->apply(x_, device.carrier_hz(), zone);
    } else {
      device.output(zone * device.carrier_hz(), 48000.0, 0.0, x_, random);
    }
  }
  double dbm(double hz) const {
    std::complex<double> sum = 0.0;
    for (std::size_t i = 0; i < x_.size(); ++i)
      sum += std::complex<double>(x_[i]) *
             std::polar(1.0, -2.0 * std::numbers::pi *
                                 std::fmod(hz * static_cast<double>(i) / 48000.0, 1.0));
    return 30.0 + db_from_power_ratio(std::norm(sum / static_cast<double>(x_.size())));
  }

 private:
  Samples x_;
};

}  // namespace heron::testing
