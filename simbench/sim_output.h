#pragma once

#include "simbench/sim_state.h"

namespace heron::sim {

/// What leaves the bench's last device, as it was when a look at it began.
class SimOutput {
 public:
  explicit SimOutput(const SimState& state)
      : device_(state.device),
        synthesizer_(state.synthesizer),
        carrier_hz_(state.carrier_hz()),
        is_keyed_(state.is_keyed()) {
    if (!state.is_bypassed && !synthesizer_) amplifier_ = state.amplifier;
    if (state.rf_hz) generated_w_ = state.drive_w();
  }

  /// Round a frequency, |v|^2 in watts, behind the amplifier if there is one.
  void fill(double center_hz, double rate_hz, double start_s, Block out,
            std::mt19937_64& random) const;
  double carrier_hz() const { return carrier_hz_; }
  bool is_keyed() const { return is_keyed_; }
  const std::optional<Synthesizer>& synthesizer() const { return synthesizer_; }

 private:
  void drive(double center_hz, double rate_hz, double start_s, Block out,
             std::mt19937_64& random) const;
  Transmitter device_;
  std::optional<Synthesizer> synthesizer_;  ///< instead of it
  double carrier_hz_;
  bool is_keyed_;
  std::optional<double> generated_w_;  ///< instead of the transmitter's
  std::optional<Amplifier> amplifier_;
};

}  // namespace heron::sim
