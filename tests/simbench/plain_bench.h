#pragma once

#include "simbench/sim_server.h"

namespace heron::testing {

/// A simulated bench with nothing but a 50 dB pad in its chain.
inline sim::SimConfig plain_bench(double time_factor = 1000.0) {
  sim::SimConfig config;
  config.time_factor = time_factor;
  Part pad;
  pad.name = "pad";
  pad.kind = "attenuator";
  pad.gain = Gain(-50.0);
  config.chain.parts = {pad};
  return config;
}

}  // namespace heron::testing
