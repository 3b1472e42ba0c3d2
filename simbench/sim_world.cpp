#include "simbench/sim_world.h"

#include "simbench/sim_analyser.h"
#include "simbench/sim_meters.h"
#include "simbench/sim_sampler.h"
#include "simbench/sim_sources.h"

namespace heron::sim {

SimWorld::SimWorld(SimConfig config) : state_(std::move(config)) {
  instruments_.push_back(std::make_unique<SimGenerator>(state_));
  instruments_.push_back(std::make_unique<SimSampler>(state_));
  instruments_.push_back(std::make_unique<SimAnalyser>(state_));
  instruments_.push_back(std::make_unique<SimPowerMeter>(state_));
  instruments_.push_back(std::make_unique<SimCounter>(state_));
  instruments_.push_back(std::make_unique<SimVoltmeter>(state_));
  instruments_.push_back(std::make_unique<SimSupply>(state_));
  instruments_.push_back(std::make_unique<SimThermometer>(state_));
  instruments_.push_back(std::make_unique<SimStepAttenuator>(state_));
  instruments_.push_back(std::make_unique<SimFrontPanel>(state_));
}

const std::vector<std::string>& SimWorld::instruments() {
  static const std::vector<std::string> names{
      "generator", "sampler", "spectrum_analyser", "power_meter",     "counter",
      "voltmeter", "supply",  "thermometer",       "step_attenuator", "device"};
  return names;
}

std::optional<std::string> SimWorld::speak(const std::string& instrument, const std::string& line) {
  for (const auto& i : instruments_) {
    if (i->name() == instrument) return i->speak(line);
  }
  return std::nullopt;
}

SimConfig SimWorld::config() const {
  return state_.held()->config;
}

SimTruth SimWorld::truth() const {
  return state_.held()->truth;
}

Transmitter SimWorld::device() {
  return state_.now()->device;
}

bool SimWorld::is_keyed() {
  return state_.held()->is_keyed();
}

double SimWorld::now_s() {
  return state_.now().now_s();
}

void SimWorld::set_time_factor(double factor) {
  state_.now().set_time_factor(factor);
}

void SimWorld::set_chain(const Chain& chain) {
  state_.held()->set_chain(chain);
}

void SimWorld::set_amplifier(const std::optional<AmplifierDesign>& design) {
  auto s = state_.now();
  s->config.amplifier = design;
  if (!design)
    s->amplifier.reset();
  else if (!s->amplifier || s->amplifier->design() != *design)
    s->amplifier.emplace(*design);
}

void SimWorld::set_oscillator(const std::optional<OscillatorDesign>& design) {
  auto s = state_.now();
  if (s->config.oscillator == design) return;
  s->config.oscillator = design;
  s->oscillator.reset();
  if (design) s->oscillator.emplace(*design, s->config.seed);
}

void SimWorld::set_synthesizer(const std::optional<SynthesizerDesign>& design) {
  auto s = state_.now();
  s->config.synthesizer = design;
  s->synthesizer.reset();
  if (design) s->synthesizer.emplace(*design);
}

void SimWorld::set_receiver(const std::optional<ReceiverDesign>& design) {
  auto s = state_.now();
  if (s->config.receiver == design) return;
  s->config.receiver = design;
  s->receiver.reset();
  if (design) s->receiver.emplace(*design);
}

std::optional<Receiver> SimWorld::receiver() {
  return state_.held()->receiver;
}

void SimWorld::set_reference(std::optional<double> dbm) {
  state_.now()->config.reference_dbm = dbm;
}

std::optional<Oscillator> SimWorld::oscillator() {
  return state_.now()->oscillator;
}

std::optional<Amplifier> SimWorld::amplifier() {
  return state_.now()->amplifier;
}

void SimWorld::set_bypassed(bool bypassed) {
  state_.now()->is_bypassed = bypassed;
}

void SimWorld::set_meter_at_end(bool at_end) {
  state_.held()->config.is_meter_at_end = at_end;
}

void SimWorld::set_loose_connector(double db) {
  state_.held()->loose_db = db;
}

void SimWorld::set_dial(double hz) {
  auto s = state_.now();
  s->device.settings.dial_hz = hz;
  if (s->receiver) s->receiver->tune(hz);
}

double SimWorld::indicated() {
  auto s = state_.now();
  return s->receiver ? s->receiver->indicated(s->received()) : 0.0;
}

}  // namespace heron::sim
