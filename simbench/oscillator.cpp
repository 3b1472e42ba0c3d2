#include "simbench/oscillator.h"

#include <cmath>

namespace heron::sim {
namespace {

constexpr double kDayS = 86400.0;
constexpr double kPpm = 1e-6;
/// A unit of variance an octave is a density of 1 / (f ln 2), whose Allan deviation is sqrt(2).
constexpr double kFlickerToAllan = 1.4142;

}  // namespace

Oscillator::Oscillator(const OscillatorDesign& design, std::uint64_t seed)
    : design_(design), random_(seed) {}

double Oscillator::temperature_c() const {
  return design_.ambient_c + design_.case_rise_k * (1.0 - std::exp(-age_s_ / design_.case_tau_s));
}

double Oscillator::quiet_ppm() const {
  const double settled_c = design_.ambient_c + design_.case_rise_k;
  return design_.settled_ppm + design_.warm_up_ppm * std::exp(-age_s_ / design_.warm_up_tau_s) +
         design_.per_kelvin_ppm * (temperature_c() - settled_c) +
         design_.ageing_ppm_per_day * age_s_ / kDayS;
}

void Oscillator::live(double seconds) {
  age_s_ += seconds;
  // Random walk: its Allan deviation grows as the root of time, sigma(1 s) sqrt(3) a second.
  walk_ += design_.walk * std::sqrt(3.0 * seconds) * normal_(random_);
}

void Oscillator::set_reference(std::optional<double> dbm) {
  if (!dbm) {
    lock_ = Lock::free;
    return;
  }
  const double needed = design_.lock_dbm + (lock_ == Lock::free ? design_.hysteresis_db : 0.0);
  if (*dbm < needed)
    lock_ = Lock::free;
  else
    lock_ = *dbm < design_.lock_dbm + design_.disturbed_db ? Lock::disturbed : Lock::held;
}

/// One relaxation an octave of time, all of the same variance.
double Oscillator::flicker(std::array<double, 16>& parts, double gate_s) {
  double sum = 0.0;
  double tau_s = 1.0;  // faster ones are averaged away in a gate
  for (double& part : parts) {
    const double kept = std::exp(-gate_s / tau_s);
    part = kept * part + std::sqrt(1.0 - kept * kept) * normal_(random_);
    sum += part;
    tau_s *= 2.0;
  }
  return sum;
}

double Oscillator::counted_hz(double gate_s) {
  const double before = phase_ + slow_phase_;
  phase_ = design_.white_phase / std::sqrt(3.0) * normal_(random_);
  slow_phase_ = design_.flicker_phase / std::sqrt(3.0) * 0.5 * flicker(phase_parts_, gate_s);
  double y = (phase_ + slow_phase_ - before) / gate_s;
  if (lock_ == Lock::held) {
    y += 0.1 * design_.white_frequency / std::sqrt(gate_s) * normal_(random_);
    return design_.nominal_hz * (1.0 + kPpm * design_.reference_error_ppm + y);
  }
  y += design_.white_frequency / std::sqrt(gate_s) * normal_(random_);
  y += design_.flicker_frequency / kFlickerToAllan * flicker(frequency_parts_, gate_s);
  if (lock_ == Lock::disturbed) {
    // It slips now and then: the scatter shows it before the mean does.
    y += 0.03 * kPpm * quiet_ppm() * normal_(random_) + 3e-8 * normal_(random_);
    return design_.nominal_hz * (1.0 + kPpm * design_.reference_error_ppm + y);
  }
  return design_.nominal_hz * (1.0 + kPpm * quiet_ppm() + y + walk_);
}

}  // namespace heron::sim
