#include "simbench/sim_meters.h"

#include <cmath>
#include <fmt/format.h>

#include "core/quantity/levels.h"

namespace heron::sim {

SimPowerMeter::SimPowerMeter(SharedState& state) : SimInstrument(state, "power_meter") {
  set("SENS:FREQ", [](SimState&, const Arguments& a) { number_at(a, 0, 1e3, 1e10); });
  read("READ?", [this]() -> std::string {
    auto s = this->state().now();
    s.pass(0.1);
    std::normal_distribution<double> gauss(0.0, 1.0);
    const double at_meter =
        s->output_w() *
        power_ratio_from_db((s->config.is_meter_at_end
                                 ? s->true_gain_db(s->carrier_hz())
                                 : s->config.coupler_db + s->truth.coupler_error_db) +
                            s->truth.power_meter_error_db);
    // Zero drift and noise of its own: some nanowatts.
    const double shown = at_meter + 3e-9 * gauss(s->random);
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
  ask("READ?", [](SimState& s) {
    // What the generator puts out, and half a millivolt of hum.
    std::normal_distribution<double> gauss(0.0, 1.0);
    double rms = 0.0;
    if (s.is_audio_on) {
      const double peak_to_mean = s.audio.kind == AudioSignal::Kind::tones
                                      ? static_cast<double>(s.audio.tones_hz.size())
                                      : 6.9;
      rms = to_pd(to_watt(Dbm{s.audio.pep_dbm - db_from_power_ratio(peak_to_mean)})).value;
    }
    return fmt::format("{:.5E}", std::hypot(rms, 5e-4) * (1.0 + 0.001 * gauss(s.random)));
  });
}

SimThermometer::SimThermometer(SharedState& state) : SimInstrument(state, "thermometer") {
  ask("READ?", [](const SimState& s) {
    if (s.oscillator && !s.is_keyed()) return fmt::format("{:.1f}", s.oscillator->temperature_c());
    return fmt::format("{:.1f}",
                       s.amplifier ? s.amplifier->temperature_c() : s.device.temperature_c());
  });
}

}  // namespace heron::sim
