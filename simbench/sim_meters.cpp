#include "simbench/sim_meters.h"

#include <cmath>
#include <fmt/format.h>

#include "core/method/measure/audio_ratio.h"
#include "core/quantity/levels.h"
#include "core/signal/normal_numbers.h"

namespace heron::sim {
namespace {

constexpr double kVoltmeterS = 0.3;  // over which it averages

/// Behind its coupler, at the end of the chain, or at a receiver's IF.
double at_power_meter_w(const SimState& s) {
  const double error_db = s.truth.power_meter_error_db;
  if (s.receiver) return to_watt(Dbm{s.receiver->at_if_dbm(s.received()) + error_db}).value;
  const double way_db = s.config.is_meter_at_end ? s.true_gain_db(s.carrier_hz())
                                                 : s.config.coupler_db + s.truth.coupler_error_db;
  return s.output_w() * power_ratio_from_db(way_db + error_db);
}

}  // namespace

SimPowerMeter::SimPowerMeter(SharedState& state) : SimInstrument(state, "power_meter") {
  set("SENS:FREQ", [](SimState&, const Arguments& a) { number_at(a, 0, 1e3, 1e10); });
  read("READ?", [this]() -> std::string {
    auto s = this->state().now();
    s.pass(0.1);
    NormalNumbers<double> gauss(0.0, 1.0);
    // Zero drift and noise of its own: some nanowatts.
    const double shown = at_power_meter_w(*s) + 3e-9 * gauss(s->random);
    if (shown <= 1e-9) return "-60.00";
    const double dbm = db_from_power_ratio(shown * 1e3);
    return dbm > 23.0 ? "9.9E37" : fmt::format("{:.2f}", dbm);
  });
}

SimCounter::SimCounter(SharedState& state) : SimInstrument(state, "counter") {
  set("SENS:FREQ:APER",
      [this](SimState&, const Arguments& a) { gate_s_ = number_at(a, 0, 0.01, 100.0); });
  read("READ?", [this] { return frequency(); });
}

std::string SimCounter::frequency() {
  auto s = state().now();
  s.pass(gate_s_);
  const AudioSignal& audio = s->audio;
  if (s->rf_hz && s->is_keyed())
    return fmt::format("{:.4f}", *s->rf_hz * (1.0 + s->truth.timebase_ppm * 1e-6));
  if (s->oscillator && !s->is_keyed()) {
    const double counted =
        s->oscillator->counted_hz(gate_s_) * (1.0 - s->truth.timebase_ppm * 1e-6);
    // Twelve digits, as reciprocal counters show them in a second.
    const double digit = counted * 1e-11 / gate_s_;
    return fmt::format("{:.4f}", std::round(counted / digit) * digit);
  }
  if (!s->device.is_keyed() || audio.kind != AudioSignal::Kind::tones || audio.tones_hz.empty())
    return "9.91E37";
  std::uniform_real_distribution<double> part(-1.0, 1.0);
  const double true_hz = s->device.carrier_hz() + audio.tones_hz.front();
  const double gate = gate_s_ * (1.0 - s->truth.timebase_ppm * 1e-6);
  const double shown = std::floor(true_hz * gate + 0.5 * (part(s->random) + 1.0)) / gate_s_;
  return fmt::format("{:.4f}", shown);
}

SimVoltmeter::SimVoltmeter(SharedState& state) : SimInstrument(state, "voltmeter") {
  read("READ?", [this] {
    auto s = this->state().now();
    s.pass(kVoltmeterS);
    return fmt::format("{:.5E}", s->receiver ? heard_v(*s) : generated_v(*s));
  });
}

/// What the generator puts out, and half a millivolt of hum.
double SimVoltmeter::generated_v(SimState& s) {
  NormalNumbers<double> gauss(0.0, 1.0);
  double rms = 0.0;
  if (s.is_audio_on) {
    const double peak_to_mean = s.audio.kind == AudioSignal::Kind::tones
                                    ? static_cast<double>(s.audio.tones_hz.size())
                                    : 6.9;
    rms = to_pd(to_watt(Dbm{s.audio.pep_dbm - db_from_power_ratio(peak_to_mean)})).value;
  }
  return std::hypot(rms, 5e-4) * (1.0 + 0.001 * gauss(s.random));
}

/// The receiver's audio: over so short a time noise is never twice the same.
double SimVoltmeter::heard_v(SimState& s) {
  NormalNumbers<double> gauss(0.0, 1.0);
  const Receiver::Audio heard = s.receiver->audio(s.received());
  // Of an averaged power, 1 / sqrt(B t); what beats with a tone moves with both.
  const double part = gauss(s.random) / std::sqrt(s.receiver->bandwidth_hz() * kVoltmeterS);
  const double noise_w = heard.noise_v * heard.noise_v;
  const double tone_w = heard.tone_v * heard.tone_v;
  const double moved = noise_w * part + std::sqrt(2.0 * noise_w * tone_w) * gauss(s.random) /
                                            std::sqrt(s.receiver->bandwidth_hz() * kVoltmeterS);
  const double volts = std::sqrt(std::max(0.0, noise_w + tone_w + moved));
  if (!s.config.is_voltmeter_average) return volts;
  const double rise = db_from_power_ratio(1.0 + tone_w / noise_w);
  return volts * voltage_ratio_from_db(average_of_noise_db() + average_meter_rise_db(rise) - rise);
}

SimThermometer::SimThermometer(SharedState& state) : SimInstrument(state, "thermometer") {
  ask("READ?", [](const SimState& s) {
    if (s.oscillator && !s.is_keyed()) return fmt::format("{:.1f}", s.oscillator->temperature_c());
    return fmt::format("{:.1f}",
                       s.amplifier ? s.amplifier->temperature_c() : s.device.temperature_c());
  });
}

}  // namespace heron::sim
