#pragma once

#include <utility>

#include "instrument/scpi_session.h"

namespace heron {

/// What drives the device while something is taken.
struct RunStimulus {
  enum class Kind { tone, two_tone, notched_noise, speech_noise, carrier };
  Kind kind = Kind::two_tone;
  std::pair<double, double> tones_hz{650.0, 1850.0};  ///< the first alone for one tone
  std::pair<double, double> band_hz{300.0, 2700.0};
  std::pair<double, double> notch_hz{1250.0, 1750.0};
  double carrier_hz = 0.0;  ///< radio frequency
};

void tell_stimulus(ScpiSession& generator, const RunStimulus& stimulus);
/// A level in whatever the profile's generator is set in.
void tell_level(ScpiSession& generator, double dbm);

}  // namespace heron
