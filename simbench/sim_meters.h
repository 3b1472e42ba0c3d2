#pragma once

#include "simbench/sim_instrument.h"

namespace heron::sim {

/// Mean power behind a coupler of its own, with the error of its scale and its zero.
class SimPowerMeter : public SimInstrument {
 public:
  explicit SimPowerMeter(SharedState& state);
};

/// Counts whole cycles of the transmitted carrier in a gate that its own timebase opens.
class SimCounter : public SimInstrument {
 public:
  explicit SimCounter(SharedState& state);

 private:
  std::string frequency();
  double gate_s_ = 1.0;  ///< changed and read while the state is held
};

/// RMS of the audio line, or of a receiver's audio.
class SimVoltmeter : public SimInstrument {
 public:
  explicit SimVoltmeter(SharedState& state);

 private:
  static double generated_v(SimState& s);
  static double heard_v(SimState& s);
};

/// On the heat sink of the last device.
class SimThermometer : public SimInstrument {
 public:
  explicit SimThermometer(SharedState& state);
};

}  // namespace heron::sim
