#pragma once

#include <complex>
#include <optional>
#include <random>
#include <span>
#include <vector>

#include "core/method/measure/loop.h"
#include "core/method/measure/loop_noise.h"

namespace heron::sim {

/// A phase-locked synthesizer with a multiplier behind it, as it is built. Its supply's noise comes
/// in by the oscillator's pushing; what hums there too.
struct SynthesizerDesign {
  double carrier_hz = 5760e6;  ///< behind the multiplier
  double output_dbm = 2.2;
  LoopDesign loop = {.r3_ohm = 1000.0, .c3_f = 100e-12, .reference_hz = 10e6};
  LoopNoiseDesign noise = {};
  double multiplication = 4.0;
  double multiplier_floor_dbc = -134.0;
  struct Line {
    double hz = 0.0;
    double dbc = 0.0;
  };
  std::vector<Line> lines = {{100.0, -54.0}, {200.0, -63.0}, {300.0, -71.0}};
  double ripple_hz = 48e3;  ///< of a switching supply
  double ripple_v = 34e-6;  ///< peak, before the supply's filter
  double drift_hz_per_s = 0.3;
  bool is_crystal = false;  ///< a quiet source in its place: what is seen is the recorder's own
};

/// What leaves it. Nobody keys it: it runs as long as it is fed.
class Synthesizer {
 public:
  explicit Synthesizer(SynthesizerDesign design) : design_(std::move(design)) {}
  const SynthesizerDesign& design() const { return design_; }
  /// L at an offset, as power in 1/Hz, behind the multiplier, without lines.
  double noise(double offset_hz) const;
  /// Those of the design, with what is left of the ripple.
  std::vector<SynthesizerDesign::Line> lines() const;
  /// Round a frequency, |v|^2 in watts, from `start_s` on.
  void fill(double center_hz, double rate_hz, double start_s, std::span<std::complex<float>> out,
            std::mt19937_64& random) const;

 private:
  SynthesizerDesign design_;
};

/// What somebody at the bench would have built or set for a step of that name: "before" has no
/// filter in its supply, "2 mA" that charge-pump current, "floor" is a crystal oscillator instead.
SynthesizerDesign as_named(SynthesizerDesign design, const std::string& step);

}  // namespace heron::sim
