#pragma once

#include <string>
#include <utility>

namespace heron {

/// What instruments do at each step of a test: what is played, how much longer than planned power
/// may peak, and how long is recorded.
struct RunRecipe {
  enum class Stimulus { notched_noise, speech_noise };
  Stimulus stimulus = Stimulus::notched_noise;
  std::pair<double, double> band_hz;
  std::pair<double, double> notch_hz;
  double over_plan_db = 0.5;  ///< PEP above the planned one at which RF goes off
  double length_s = 4.0;
  double rate_hz = 48000.0;
  std::string refusal = {};  ///< why it cannot be run; empty = it can
  std::string what_to_do = {};
};

}  // namespace heron
