#include "simbench/sim_state.h"

#include <cmath>
#include <numbers>

#include "core/quantity/levels.h"
#include "simbench/random_source.h"

namespace heron::sim {
namespace {

/// The error of a thing is its own: drawn from the bench's seed and its name (FNV-1a).
double error_of(const std::string& name, double sigma, std::uint64_t seed) {
  std::uint64_t hash = 14695981039346656037U;
  for (const char c : name) hash = (hash ^ static_cast<unsigned char>(c)) * 1099511628211U;
  std::mt19937_64 random(seed * 0x9E3779B97F4A7C15U ^ hash);
  return drawn_error(random, sigma);
}

std::string in_octave(const std::string& name, double frequency_hz) {
  return name + " in octave " + std::to_string(std::lround(std::floor(std::log2(frequency_hz))));
}

}  // namespace

SimState::SimState(SimConfig as_stated)
    : config(std::move(as_stated)), random(config.seed), device(config.transmitter) {
  if (config.amplifier) amplifier.emplace(*config.amplifier);
  if (config.synthesizer) synthesizer.emplace(*config.synthesizer);
  if (config.receiver) receiver.emplace(*config.receiver);
  if (config.oscillator) oscillator.emplace(*config.oscillator, config.seed);
  const auto error = [this](const char* name, double sigma) {
    return error_of(name, sigma, config.seed);
  };
  audio.sequence = config.seed;
  truth.coupler_error_db = error("coupler of the power meter", config.coupler_u_db);
  truth.sampler_error_db = error("the sampler's scale", config.sampler_u_db);
  truth.analyser_error_db = error("the analyser's scale", config.analyser_u_db);
  truth.generator_error_db = error("the generator's level", config.generator_u_db);
  truth.power_meter_error_db = error("the power meter's scale", config.power_meter_u_db);
  truth.attenuator_db_per_db = error("step attenuator", config.attenuator_u_db) / 30.0;
  std::uniform_real_distribution<double> within(-1.0, 1.0);
  truth.timebase_ppm = config.counter_timebase_ppm * within(random);
  set_chain(Chain(config.chain));
}

void SimState::set_chain(const Chain& chain) {
  config.chain = chain;
  // The sampler is set as the hook-up says.
  if (const Part* recorder = recorder_of(chain); recorder != nullptr && recorder->full_scale_dbm)
    config.sampler_full_scale_dbm = *recorder->full_scale_dbm;
  truth.part_error_db.clear();
  for (const Part& part : chain.parts)
    truth.part_error_db[part.name] = error_of(part.name, part.u_db, config.seed);
}

void SimState::key() {
  device.audio = audio;
  if (!is_audio_on || !is_supply_on || rf_hz) device.audio.kind = AudioSignal::Kind::off;
}

bool SimState::is_keyed() const {
  if (synthesizer) return is_supply_on;
  return rf_hz ? is_audio_on : device.is_keyed();
}

double SimState::carrier_hz() const {
  if (synthesizer) return synthesizer->design().carrier_hz;
  return rf_hz ? *rf_hz : device.carrier_hz();
}

double SimState::drive_w() const {
  if (!rf_hz) return device.mean_power_w();
  return is_audio_on ? to_watt(Dbm{audio.pep_dbm + config.driver_db}).value : 0.0;
}

std::optional<Receiver::Signal> SimState::received() const {
  if (!rf_hz || !is_audio_on) return std::nullopt;
  Receiver::Signal signal{*rf_hz, audio.pep_dbm + truth.generator_error_db + true_gain_db(*rf_hz)};
  signal.am_depth = am_depth;
  signal.am_tone_hz = am_tone_hz;
  return signal;
}

Ripple SimState::ripple_of(const std::string& name, double frequency_hz) const {
  const std::string what = in_octave(name, frequency_hz);
  // Between two lines the error is that of both, and a cosine has half of its amplitude's square.
  const double amplitude = error_of("ripple of " + what, config.bend_u_db, config.seed);
  const double turn = error_of("phase of " + what, 1.0, config.seed);
  return {amplitude, 2.0 * std::numbers::pi * turn};
}

double SimState::true_gain_db(double frequency_hz) const {
  double gain = 0.0;
  for (const Part& part : config.chain.parts) {
    if (find_part_kind(part.kind)->ends_chain) continue;
    gain += part.gain.at(frequency_hz, part.name);
    if (config.has_part_errors_by_octave)
      gain += error_of(in_octave(part.name, frequency_hz), part.u_db, config.seed);
    else if (const auto error = truth.part_error_db.find(part.name);
             error != truth.part_error_db.end())
      gain += error->second;
  }
  return gain - attenuation_db * (1.0 + truth.attenuator_db_per_db);
}

double SimState::output_w() const {
  if (synthesizer) return is_supply_on ? to_watt(Dbm{synthesizer->design().output_dbm}).value : 0.0;
  const double alone = drive_w();
  return amplifier && !is_bypassed ? amplifier->power_out_w(alone, carrier_hz()) : alone;
}

void SimState::live(double seconds) {
  if (amplifier) {
    const double in = is_bypassed ? 0.0 : drive_w();
    amplifier->live(seconds, in, amplifier->power_out_w(in, carrier_hz()));
  }
  device.live(seconds);
  if (!oscillator) return;
  oscillator->live(seconds);
  oscillator->set_reference(config.reference_dbm
                                ? std::optional(*config.reference_dbm -
                                                attenuation_db * (1.0 + truth.attenuator_db_per_db))
                                : std::nullopt);
}

SharedState::SharedState(SimConfig config)
    : state_(std::move(config)),
      started_(std::chrono::steady_clock::now()),
      time_factor_(state_.config.time_factor) {}

SharedState::Held SharedState::now() {
  Held held(*this);
  const double wall =
      std::chrono::duration<double>(std::chrono::steady_clock::now() - started_).count();
  const double now = wall * time_factor_ + extra_s_;
  const double passed = now - lived_s_;
  if (passed > 0.0) {
    state_.live(passed);
    lived_s_ = now;
  }
  return held;
}

void SharedState::Held::set_time_factor(double factor) {
  shared_.extra_s_ = shared_.lived_s_;
  shared_.started_ = std::chrono::steady_clock::now();
  shared_.time_factor_ = factor;
}

}  // namespace heron::sim
