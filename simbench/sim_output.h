#pragma once

#include "simbench/sim_state.h"

namespace heron::sim {

/// What leaves the bench's last device, as it was when a look at it began.
class SimOutput {
 public:
  explicit SimOutput(const SimState& state) : device_(state.device), amplifier_(state.amplifier) {}

  /// Round a frequency, |v|^2 in watts, behind the amplifier if there is one.
  void fill(double center_hz, double rate_hz, double start_s, Block out,
            std::mt19937_64& random) const;
  const Transmitter& device() const { return device_; }

 private:
  Transmitter device_;
  std::optional<Amplifier> amplifier_;
};

}  // namespace heron::sim
