#pragma once

#include <array>
#include <optional>
#include <random>

#include "core/signal/normal_numbers.h"

namespace heron::sim {

/// A crystal oscillator with a reference input, as it is built. Noise by power law: the Allan
/// deviation that each kind alone would give at 1 s.
struct OscillatorDesign {
  double nominal_hz = 10e6;
  double settled_ppm = 0.21;
  double warm_up_ppm = 1.5;  ///< above that when it is switched on
  double warm_up_tau_s = 516.0;
  double per_kelvin_ppm = 0.01;  ///< of the case, round where that settles
  double ambient_c = 21.0;
  double case_rise_k = 11.0;
  double case_tau_s = 1100.0;
  double ageing_ppm_per_day = 0.002;
  double white_phase = 0.0;
  double flicker_phase = 0.0;
  double white_frequency = 1e-9;
  double flicker_frequency = 3e-10;
  double walk = 2e-11;
  double lock_dbm = -6.0;      ///< it holds down to this level at its input
  double hysteresis_db = 2.0;  ///< and is caught again so much above
  double disturbed_db = 1.0;   ///< above the end of holding it only follows
  double reference_error_ppm = 0.0;
  bool operator==(const OscillatorDesign&) const = default;
};

/// One in its case, switched on when it is made.
class Oscillator {
 public:
  explicit Oscillator(const OscillatorDesign& design, std::uint64_t seed = 1);
  const OscillatorDesign& design() const { return design_; }
  void live(double seconds);
  double age_s() const { return age_s_; }
  double temperature_c() const;
  /// Without noise, free running.
  double quiet_ppm() const;
  /// The level at its reference input; nullopt = nothing connected.
  void set_reference(std::optional<double> dbm);
  enum class Lock { free, disturbed, held };
  Lock lock() const { return lock_; }
  /// Mean over so long from now on, with its noise.
  double counted_hz(double gate_s);

 private:
  double flicker(std::array<double, 16>& parts, double gate_s);
  OscillatorDesign design_;
  std::mt19937_64 random_;
  NormalNumbers<double> normal_;
  double age_s_ = 0.0;
  double walk_ = 0.0;
  double phase_ = 0.0;  ///< white, where the last gate ended, s
  double slow_phase_ = 0.0;
  std::array<double, 16> frequency_parts_{};
  std::array<double, 16> phase_parts_{};
  Lock lock_ = Lock::free;
};

}  // namespace heron::sim
