#pragma once

#include <atomic>

#include "simbench/sim_instrument.h"

namespace heron::sim {

/// Takes I and Q round a frequency: 14 bit, with noise, distortion, offset and quadrature error of
/// its own.
class SimSampler : public SimInstrument {
 public:
  explicit SimSampler(SharedState& state);

 private:
  std::string samples();
  struct Setting {
    double center_hz = 14.2e6;
    double rate_hz = 250e3;
    std::size_t frames = 1U << 18U;
  };
  Setting setting_;  ///< changed and copied while the state is held
  std::atomic<bool> was_over_ = false;
  bool is_loose_now_ = false;
};

}  // namespace heron::sim
