#pragma once

#include <atomic>

#include "simbench/sim_instrument.h"

namespace heron::sim {

/// A swept spectrum analyser: a Gaussian filter, one sweep's scatter, noise of its own.
class SimAnalyser : public SimInstrument {
 public:
  explicit SimAnalyser(SharedState& state);

 private:
  std::string trace();
  static void add_receiver(const Receiver& receiver, const SimState& seen, double rbw,
                           double from_hz, double spacing_hz, std::vector<double>& power,
                           std::mt19937_64& random);
  static void add_synthesizer(const Synthesizer& device, const SimState& seen, double rbw,
                              double from_hz, double spacing_hz, std::vector<double>& power,
                              std::mt19937_64& random);
  struct Setting {
    double center_hz = 15e6;
    double span_hz = 10e6;
    double rbw_hz = 1e3;
    std::size_t points = 1001;
  };
  Setting setting_;  ///< changed and copied while the state is held
  std::atomic<bool> was_over_ = false;
};

}  // namespace heron::sim
