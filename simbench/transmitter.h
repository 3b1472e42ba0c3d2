#pragma once

#include <array>
#include <complex>
#include <cstdint>
#include <random>
#include <span>
#include <vector>

#include "simbench/audio_source.h"
#include "simbench/heat.h"

namespace heron::sim {

using Block = std::span<std::complex<float>>;

/// How one transmitter is built. Everything in it is the truth that measurements look for.
struct TransmitterDesign {
  double full_pep_w = 31.5;     ///< amplitude 1 of the power stage
  double full_audio_dbm = -24;  ///< audio that drives it to amplitude 1 at full gain
  /// Complex odd-order coefficients of the power stage, c3, c5, c7, and the same for what it
  /// remembers from `memory_s` ago.
  std::array<std::complex<double>, 3> curve{{{-0.18, 0.02}, {0.36, -0.04}, {-0.11, 0.02}}};
  std::array<std::complex<double>, 3> memory{{{0.008, 0.010}, {-0.006, 0.004}, {0.0, 0.0}}};
  double memory_s = 12e-6;
  double alc_overshoot_db = 0.05;  ///< how far the level control lets the peak over its set value
  double droop_db_per_k = 0.012;
  double supply_ohm = 0.08;  ///< of leads and fuse
  double idle_a = 0.7;
  double efficiency = 0.45;  ///< of the power stage at amplitude 1, falling with the amplitude
  /// Harmonics 2 to 10 at full power, dB re carrier; the nth falls n dB for 1 dB of drive.
  std::array<double, 9> harmonic_dbc{
      {-46.0, -52.5, -63.0, -58.0, -72.0, -69.0, -80.0, -77.0, -84.0}};
  struct Spur {
    double offset_hz;
    double dbc;
  };
  std::vector<Spur> spurs{{61'234.0, -62.0}, {-118'500.0, -67.0}};
  double carrier_leak_db = -49.0;       ///< re full amplitude
  double opposite_sideband_db = -46.0;  ///< re the wanted one
  double reference_ppm = -0.83;
  double noise_dbc_hz = -118.0;  ///< phase noise near the carrier
  double noise_corner_hz = 2500.0;
};

/// What stands on its front panel.
struct TransmitterSettings {
  double dial_hz = 14.2e6;
  double power_w = 30.0;  ///< where its level control holds the peak
  double gain_db = 0.0;   ///< audio gain against full
  AudioFilter filter;
  bool is_compressor_on = false;
};

/// What surrounds it.
struct TransmitterSurroundings {
  double supply_v = 13.8;
  double supply_limit_a = 10.0;
};

/// A single-sideband transmitter, upper sideband, keyed as long as audio comes in.
class Transmitter {
 public:
  explicit Transmitter(TransmitterDesign design = {}) : design_(std::move(design)) {}

  TransmitterSettings settings;
  TransmitterSurroundings surroundings;
  AudioSignal audio;

  const TransmitterDesign& design() const { return design_; }
  bool is_keyed() const { return audio.kind != AudioSignal::Kind::off; }
  double carrier_hz() const { return settings.dial_hz * (1.0 + design_.reference_ppm * 1e-6); }
  double temperature_c() const { return sink_.temperature_c; }

  /// Lets time pass: heats while it is keyed, cools otherwise.
  void live(double seconds);

  /// Its output round a radio frequency, from a moment on; |v|^2 is power in watts. Everything
  /// whose distance from the centre is less than half the rate is in it.
  void output(double center_hz, double rate_hz, double start_s, Block out,
              std::mt19937_64& random) const;
  double mean_power_w() const;  ///< over some ten milliseconds, without noise
  double pep_w() const;
  double current_a() const;
  double voltage_v() const;  ///< at its socket

 private:
  struct Drive {
    double gain;     ///< from audio to the power stage, voltage
    double ceiling;  ///< amplitude that the supply allows
  };
  Drive drive() const;
  /// Amplitude of the power stage, complex, re the suppressed carrier.
  void envelope(double start_s, double rate_hz, Block out, const Drive& drive) const;
  double current_for(double mean_w) const;

  TransmitterDesign design_;
  HeatSink sink_;
};

}  // namespace heron::sim
