#pragma once

#include "simbench/sim_instrument.h"

namespace heron::sim {

/// An audio generator with one or two tones and two kinds of noise.
class SimGenerator : public SimInstrument {
 public:
  explicit SimGenerator(SharedState& state);
};

/// A supply with its meters.
class SimSupply : public SimInstrument {
 public:
  explicit SimSupply(SharedState& state);
};

/// A step attenuator in front of sampler and analyser.
class SimStepAttenuator : public SimInstrument {
 public:
  explicit SimStepAttenuator(SharedState& state);
};

/// The front panel of the device, for where a hand would turn it.
class SimFrontPanel : public SimInstrument {
 public:
  explicit SimFrontPanel(SharedState& state);
};

}  // namespace heron::sim
