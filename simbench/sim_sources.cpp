#include "simbench/sim_sources.h"

#include <cmath>
#include <fmt/format.h>

namespace heron::sim {

SimGenerator::SimGenerator(SharedState& state) : SimInstrument(state, "generator") {
  set("OUTP", [](SimState& s, const Arguments& a) {
    s.is_audio_on = switch_at(a, 0);
    s.key();
  });
  ask("OUTP?", [](const SimState& s) { return s.is_audio_on ? "1" : "0"; });
  set("SOUR:POW", [](SimState& s, const Arguments& a) {
    s.audio.pep_dbm = number_at(a, 0, -150.0, 10.0);
    s.key();
  });
  set("SOUR:FREQ", [](SimState& s, const Arguments& a) {
    s.rf_hz = number_at(a, 0, 1.0, 1e10);
    s.key();
  });
  set("SOUR:AM", [](SimState& s, const Arguments& a) {
    s.am_depth = number_at(a, 0, 0.0, 100.0) / 100.0;
    s.am_tone_hz = number_at(a, 1, 20.0, 20e3);
  });
  set("SOUR:AM:OFF", [](SimState& s, const Arguments&) { s.am_depth = 0.0; });
  set("SOUR:FUNC:TONE", [](SimState& s, const Arguments& a) {
    s.rf_hz.reset();
    s.audio.kind = AudioSignal::Kind::tones;
    s.audio.tones_hz = {number_at(a, 0, 20.0, 20e3)};
    s.key();
  });
  set("SOUR:FUNC:DUAL", [](SimState& s, const Arguments& a) {
    s.rf_hz.reset();
    s.audio.kind = AudioSignal::Kind::tones;
    s.audio.tones_hz = {number_at(a, 0, 20.0, 20e3), number_at(a, 1, 20.0, 20e3)};
    s.key();
  });
  set("SOUR:FUNC:NOTC", [](SimState& s, const Arguments& a) {
    s.rf_hz.reset();
    s.audio.kind = AudioSignal::Kind::notched_noise;
    s.audio.band_hz = {number_at(a, 0, 20.0, 7e3), number_at(a, 1, 20.0, 7e3)};
    s.audio.notch_hz = {number_at(a, 2, 20.0, 7e3), number_at(a, 3, 20.0, 7e3)};
    s.key();
  });
  set("SOUR:FUNC:SPE", [](SimState& s, const Arguments& a) {
    s.rf_hz.reset();
    s.audio.kind = AudioSignal::Kind::speech_noise;
    s.audio.band_hz = {number_at(a, 0, 20.0, 7e3), number_at(a, 1, 20.0, 7e3)};
    s.key();
  });
}

SimSupply::SimSupply(SharedState& state) : SimInstrument(state, "supply") {
  set("OUTP", [](SimState& s, const Arguments& a) {
    s.is_supply_on = switch_at(a, 0);
    s.key();
  });
  set("SOUR:VOLT", [](SimState& s, const Arguments& a) {
    s.device.surroundings.supply_v = number_at(a, 0, 0.0, 15.0);
  });
  set("SOUR:CURR", [](SimState& s, const Arguments& a) {
    s.device.surroundings.supply_limit_a = number_at(a, 0, 0.0, 10.0);
  });
  // Of the last device, at its terminals.
  ask("MEAS:VOLT?", [](const SimState& s) {
    const double volts = s.amplifier ? s.amplifier->voltage_v(s.is_bypassed ? 0.0 : s.output_w())
                                     : s.device.surroundings.supply_v;
    return fmt::format("{:.3f}", s.is_supply_on ? volts : 0.0);
  });
  ask("MEAS:CURR?", [](const SimState& s) {
    const double amperes = s.amplifier ? s.amplifier->current_a(s.is_bypassed ? 0.0 : s.output_w())
                                       : s.device.current_a();
    return fmt::format("{:.3f}", s.is_supply_on ? amperes : 0.0);
  });
}

SimStepAttenuator::SimStepAttenuator(SharedState& state) : SimInstrument(state, "step_attenuator") {
  set("INP:ATT", [](SimState& s, const Arguments& a) {
    s.attenuation_db = std::round(number_at(a, 0, 0.0, 60.0));
  });
  ask("INP:ATT?", [](const SimState& s) { return fmt::format("{:.0f}", s.attenuation_db); });
}

SimFrontPanel::SimFrontPanel(SharedState& state) : SimInstrument(state, "device") {
  set("POW", [](SimState& s, const Arguments& a) {
    s.device.settings.power_w = number_at(a, 0, 0.1, 30.0);
  });
  set("GAIN", [](SimState& s, const Arguments& a) {
    s.device.settings.gain_db = number_at(a, 0, -60.0, 20.0);
  });
  set("FREQ", [](SimState& s, const Arguments& a) {
    s.device.settings.dial_hz = number_at(a, 0, 1.8e6, 54e6);
    if (s.receiver) s.receiver->tune(s.device.settings.dial_hz);
  });
  set("FILT", [](SimState& s, const Arguments& a) {
    s.device.settings.filter.low_hz = number_at(a, 0, 20.0, 1e3);
    s.device.settings.filter.high_hz = number_at(a, 1, 1e3, 7e3);
  });
  set("COMP", [](SimState& s, const Arguments& a) {
    s.device.settings.is_compressor_on = switch_at(a, 0);
  });
  set("BYP", [](SimState& s, const Arguments& a) { s.is_bypassed = switch_at(a, 0); });
  ask("POW?", [](const SimState& s) { return fmt::format("{:g}", s.device.settings.power_w); });
  // S units, and beyond 9 one more for each 6 dB shown.
  ask("IND?", [](const SimState& s) {
    return s.receiver ? fmt::format("{:.2f}", s.receiver->indicated(s.received())) : "0";
  });
  ask("KEYED?", [](const SimState& s) { return s.is_keyed() ? "1" : "0"; });
}

}  // namespace heron::sim
