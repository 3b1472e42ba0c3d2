#include "simbench/synthesizer.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>

#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"
#include "core/signal/shaped_noise.h"

namespace heron::sim {
namespace {

constexpr double kCrystalDbc = -160.0;  ///< white, and over f^3 below 1 kHz
constexpr double kLeastHz = 1.0;        ///< below it nothing is told of the noise

}  // namespace

double Synthesizer::noise(double offset_hz) const {
  const double hz = std::max(kLeastHz, offset_hz);
  if (design_.is_crystal)
    return power_ratio_from_db(kCrystalDbc) * (1.0 + std::pow(1000.0 / hz, 3.0));
  const double n = design_.multiplication;
  return loop_noise(design_.loop, design_.noise, hz).total() * n * n +
         power_ratio_from_db(design_.multiplier_floor_dbc);
}

std::vector<SynthesizerDesign::Line> Synthesizer::lines() const {
  if (design_.is_crystal) return {};
  std::vector<SynthesizerDesign::Line> all = design_.lines;
  // Ripple times pushing is a deviation; over its frequency an index, of which each sideband has
  // half. The loop takes nothing away above its crossover.
  const double hz = design_.ripple_hz;
  const double volts = design_.ripple_v * std::sqrt(supply_filter(design_.noise, hz));
  const double error = std::abs(1.0 / (1.0 + open_loop(design_.loop, hz)));
  const double index = design_.multiplication * volts * design_.noise.pushing_hz_per_v / hz * error;
  if (index > 0.0) all.push_back({hz, 20.0 * std::log10(index / 2.0)});
  return all;
}

void Synthesizer::fill(double center_hz, double rate_hz, double start_s,
                       std::span<std::complex<float>> out, std::mt19937_64& random) const {
  const std::vector<float> phase = shaped_noise(
      std::bit_ceil(std::max<std::size_t>(out.size(), 16)), rate_hz,
      [this](double hz) { return 2.0 * noise(hz); }, random());
  const double amplitude = std::sqrt(to_watt(Dbm{design_.output_dbm}).value);
  const double off_hz = design_.carrier_hz - center_hz;
  std::vector<SynthesizerDesign::Line> seen = lines();
  std::erase_if(seen, [&](const auto& l) { return l.hz >= rate_hz / 2.0; });
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / rate_hz;
    const double now = start_s + t;
    double turn = std::fmod(off_hz * now, 1.0) + 0.5 * design_.drift_hz_per_s * t * t;
    turn *= 2.0 * std::numbers::pi;
    for (const auto& l : seen)
      turn += 2.0 * std::pow(10.0, l.dbc / 20.0) *
              std::sin(2.0 * std::numbers::pi * std::fmod(l.hz * now, 1.0));
    out[i] = std::complex<float>(std::polar(amplitude, turn + static_cast<double>(phase[i])));
  }
  // Off its span nothing is seen.
  if (std::abs(off_hz) > rate_hz / 2.0) std::fill(out.begin(), out.end(), std::complex<float>());
}

SynthesizerDesign as_named(SynthesizerDesign design, const std::string& step) {
  const std::string name = lower_case(normalised_typing(step));
  if (name.find("before") != std::string::npos || name.find("unmodified") != std::string::npos)
    design.noise.series_ohm = 0.0;
  if (name.starts_with("floor") || name.starts_with("yardstick")) design.is_crystal = true;
  if (const auto current = leading_number(name); current && current->rest.starts_with("ma"))
    design.loop.charge_pump_a = std::clamp(current->value, 0.01, 100.0) * 1e-3;
  return design;
}

}  // namespace heron::sim
