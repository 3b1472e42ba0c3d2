#pragma once

#include <array>
#include <complex>
#include <span>

#include "simbench/heat.h"
#include "simbench/transmitter.h"

namespace heron::sim {

/// How one amplifier is built.
struct AmplifierDesign {
  double gain_db = 14.6;       ///< small signal, at its best frequency
  double saturated_w = 128.0;  ///< of its output
  double knee = 2.6;           ///< how suddenly it saturates; higher is harder
  double phase_deg = 9.0;      ///< turned by saturation
  double best_hz = 12e6;
  double octave_db = 0.35;  ///< lost an octave away from it
  /// Harmonics 2 to 10 at saturation, dB re carrier.
  std::array<double, 9> harmonic_dbc{
      {-34.0, -24.0, -48.0, -38.0, -58.0, -50.0, -66.0, -60.0, -74.0}};
  double supply_v = 48.0;
  double supply_ohm = 0.12;
  double idle_a = 0.4;
  double supply_limit_a = 0.0;  ///< its supply gives no more; 0 = more than it needs
  double efficiency = 0.58;     ///< at saturation
  double droop_db_per_k = 0.008;

  bool operator==(const AmplifierDesign&) const = default;
};

/// An amplifier without memory: soft compression (Rapp), phase turned by it, harmonics, heat.
class Amplifier {
 public:
  explicit Amplifier(const AmplifierDesign& design = {}) : design_(design) {
    sink_.kelvin_per_watt = 0.35;
    sink_.time_constant_s = 420.0;
  }
  static constexpr int kHighestZone = 10;
  const AmplifierDesign& design() const { return design_; }

  /// Drives it with a block whose |v|^2 is power in watts round a carrier; gives what comes out in
  /// its zone n, 1 (at the carrier) to 10.
  void apply(Block block, double carrier_hz, int zone) const;
  double gain_db(double frequency_hz) const;  ///< small signal, as warm as it is
  double power_out_w(double power_in_w, double frequency_hz) const;
  /// Where it saturates on this supply.
  double most_w() const;
  double current_a(double power_out_w) const;
  double voltage_v(double power_out_w) const;
  double temperature_c() const { return sink_.temperature_c; }
  void live(double seconds, double power_in_w, double power_out_w);

 private:
  AmplifierDesign design_;
  HeatSink sink_;
};

}  // namespace heron::sim
