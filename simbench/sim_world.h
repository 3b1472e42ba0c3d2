#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "simbench/sim_instrument.h"
#include "simbench/sim_state.h"

namespace heron::sim {

/// Simulated devices with the instruments round them. Any thread may speak to any instrument.
class SimWorld {
 public:
  explicit SimWorld(SimConfig config);

  /// "generator", "sampler", "spectrum_analyser", "power_meter", "counter", "voltmeter", "supply",
  /// "thermometer", "step_attenuator", "device".
  static const std::vector<std::string>& instruments();

  /// What an instrument answers to one line of SCPI, without line end; nullopt if no answer is due.
  std::optional<std::string> speak(const std::string& instrument, const std::string& line);

  SimConfig config() const;
  SimTruth truth() const;
  /// A copy of the device as it is now.
  Transmitter device();
  bool is_keyed();
  double now_s();
  void set_time_factor(double factor);
  void set_chain(const Chain& chain);
  /// Puts an amplifier behind the transmitter, or takes it away. The same one stays as warm as it
  /// is.
  void set_amplifier(const std::optional<AmplifierDesign>& design);
  /// Takes the amplifier out of the line, or puts it back.
  void set_bypassed(bool bypassed);
  /// Puts the power meter at the end of the chain, or back behind its coupler.
  void set_meter_at_end(bool at_end);
  /// A copy of it as it is now; nullopt if there is none.
  std::optional<Amplifier> amplifier();
  /// Switches an oscillator on, cold, or takes it away. The same one stays as warm as it is.
  void set_oscillator(const std::optional<OscillatorDesign>& design);
  std::optional<Oscillator> oscillator();
  /// Puts a synthesizer in the transmitter's place, or takes it away.
  void set_synthesizer(const std::optional<SynthesizerDesign>& design);
  /// Puts a receiver at the other end of the chain, or takes it away. The same one stays tuned.
  void set_receiver(const std::optional<ReceiverDesign>& design);
  /// A copy of it as it is now; nullopt if there is none.
  std::optional<Receiver> receiver();
  /// Level of an outside reference before the step attenuator; nullopt = none connected.
  void set_reference(std::optional<double> dbm);
  /// Every other look of the sampler loses so much.
  void set_loose_connector(double db);
  /// Where the dial of transmitter and receiver stands.
  void set_dial(double hz);
  /// What the receiver's indicator shows, S units; over 9 one more for each 6 dB.
  double indicated();

 private:
  mutable SharedState state_;  ///< locks itself
  std::vector<std::unique_ptr<SimInstrument>> instruments_;
};

}  // namespace heron::sim
