#include "core/method/measure/loop_noise.h"

#include <cmath>
#include <numbers>

#include "core/quantity/levels.h"

namespace heron {
namespace {

using Complex = std::complex<double>;
constexpr double kBoltzmann = 1.380649e-23;

/// A noise voltage (V^2/Hz) at the oscillator's tuning input, as L.
double from_voltage(double square, double hz_per_v, double offset_hz) {
  const double deviation = hz_per_v / offset_hz;
  return 0.5 * square * deviation * deviation;
}

/// Thermal noise of R2 and R3 as it comes to the tuning input, V^2/Hz.
double resistor_noise(const LoopDesign& l, double hz, double kelvin) {
  const Complex s(0.0, 2.0 * std::numbers::pi * hz);
  const Complex y1 = s * l.c1_f;
  const Complex y2 = s * l.c2_f / (1.0 + s * l.r2_ohm * l.c2_f);
  const double four_kt = 4.0 * kBoltzmann * kelvin;
  if (!l.has_third_pole()) return four_kt * l.r2_ohm * std::norm(y2 / (y1 + y2));
  const Complex third = 1.0 + s * l.r3_ohm * l.c3_f;
  const Complex y3 = s * l.c3_f / third;
  // In series with R2: a divider to the node, then the third pole.
  const double r2 = four_kt * l.r2_ohm * std::norm(y2 / (y1 + y2 + y3) / third);
  // In series with R3: what the rest of the filter and C3 leave of it.
  const Complex z = 1.0 / (y1 + y2);
  const Complex c3 = 1.0 / (s * l.c3_f);
  const double r3 = four_kt * l.r3_ohm * std::norm(c3 / (z + l.r3_ohm + c3));
  return r2 + r3;
}

}  // namespace

double LoopNoise::total_dbc() const {
  return db_from_power_ratio(total());
}

double supply_filter(const LoopNoiseDesign& n, double hz) {
  if (!(n.series_ohm > 0.0) || !(n.bulk_f > 0.0)) return 1.0;
  const Complex bulk = n.bulk_esr_ohm + 1.0 / Complex(0.0, 2.0 * std::numbers::pi * hz * n.bulk_f);
  return std::norm(bulk / (bulk + n.series_ohm));
}

LoopNoise loop_noise(const LoopDesign& loop, const LoopNoiseDesign& n, double f) {
  const double inside = std::norm(closed_loop(loop, f));
  const double outside = std::norm(1.0 / (1.0 + open_loop(loop, f)));
  LoopNoise out;
  const double decades = f / 1e5;
  out.oscillator = outside * (power_ratio_from_db(n.oscillator_dbc) / (decades * decades) *
                                  (1.0 + n.oscillator_corner_hz / f) +
                              power_ratio_from_db(n.oscillator_floor_dbc));
  const double per_current = n.detector_constant + n.detector_per_ma * 1e-3 / loop.charge_pump_a;
  const double floor = power_ratio_from_db(n.detector_floor) * loop.n * loop.n * n.reference_hz;
  const double giga = n.oscillator_hz / 1e9;
  const double flicker = power_ratio_from_db(n.detector_flicker) * giga * giga * 1e4 / f;
  out.detector = inside * (floor * per_current + flicker);
  double reference = 0.0;
  for (int i = 0; i < 4; ++i) reference += power_ratio_from_db(n.reference_dbc[i]) / std::pow(f, i);
  out.reference = inside * reference * loop.n * loop.n;
  out.resistors =
      outside * from_voltage(resistor_noise(loop, f, n.temperature_k), loop.kvco_hz_per_v, f);
  const double roll = f / n.supply_rolloff_hz;
  const double supply = n.supply_v_rt_hz * n.supply_v_rt_hz * (1.0 + n.supply_corner_hz / f) /
                        (1.0 + roll * roll) * supply_filter(n, f);
  out.supply = outside * from_voltage(supply, n.pushing_hz_per_v, f);
  return out;
}

}  // namespace heron
