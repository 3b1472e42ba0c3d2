#include "simbench/amplifier.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/quantity/levels.h"

namespace heron::sim {
namespace {

using Complex = std::complex<double>;

/// Output amplitude of a stage that saturates at 1, for its linear output (Rapp 1991).
double rapp(double linear, double knee) {
  return linear / std::pow(1.0 + std::pow(linear, 2.0 * knee), 1.0 / (2.0 * knee));
}

}  // namespace

double Amplifier::gain_db(double frequency_hz) const {
  const double octaves = std::log2(std::max(frequency_hz, 1.0) / design_.best_hz);
  return design_.gain_db - design_.octave_db * octaves * octaves -
         design_.droop_db_per_k * (sink_.temperature_c - sink_.ambient_c);
}

void Amplifier::apply(Block block, double carrier_hz, int zone) const {
  const double saturation = std::sqrt(most_w());
  const double gain = voltage_ratio_from_db(gain_db(carrier_hz)) / saturation;
  const double level =
      zone == 1 ? 1.0
                : voltage_ratio_from_db(design_.harmonic_dbc[static_cast<std::size_t>(zone - 2)]);
  const double turn = design_.phase_deg * std::numbers::pi / 180.0;
  for (auto& v : block) {
    const double r = gain * static_cast<double>(std::abs(v));
    if (r <= 0.0) continue;
    const double out = rapp(r, design_.knee);
    const double angle = std::arg(Complex(v)) + turn * out * out;
    const double amplitude = saturation * level * std::pow(out, zone);
    v = std::complex<float>(std::polar(amplitude, zone * angle));
  }
}

double Amplifier::power_out_w(double power_in_w, double frequency_hz) const {
  const double most = most_w();
  const double linear = std::sqrt(power_in_w * power_ratio_from_db(gain_db(frequency_hz)) / most);
  return most * std::pow(rapp(linear, design_.knee), 2.0);
}

double Amplifier::most_w() const {
  if (design_.supply_limit_a <= 0.0) return design_.saturated_w;
  const double at_full = design_.saturated_w / design_.efficiency / design_.supply_v;
  const double share = std::max(0.05, (design_.supply_limit_a - design_.idle_a) / at_full);
  return design_.saturated_w * std::min(1.0, share * share);
}

double Amplifier::current_a(double power_out_w) const {
  const double at_full = design_.saturated_w / design_.efficiency / design_.supply_v;
  return design_.idle_a + at_full * std::sqrt(power_out_w / design_.saturated_w);
}

double Amplifier::voltage_v(double power_out_w) const {
  return design_.supply_v - design_.supply_ohm * current_a(power_out_w);
}

void Amplifier::live(double seconds, double power_in_w, double power_out_w) {
  sink_.run(seconds, current_a(power_out_w) * voltage_v(power_out_w) + power_in_w - power_out_w);
}

}  // namespace heron::sim
