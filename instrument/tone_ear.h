#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <stop_token>
#include <string>

#include "instrument/scpi_session.h"

namespace heron {

/// What hears the tone of a receiver: a sound input, or what stands for one. It belongs to the
/// thread that listens.
struct ToneEar {
  std::string name;
  /// Hz, over the next `length_s`; InputError where no tone stands out, Cancelled on a stop.
  std::function<double(double length_s, const std::stop_token& stop)> hear;
};

/// A tone that should be at `tone_hz`, in a recording; InputError where none stands out there.
double heard_hz(std::vector<float> sound, double rate_hz, std::optional<double> near_hz);

/// A receiver whose oscillator is what a counter counts, tuned to a true carrier there: its audio
/// is made with noise 26 dB below the tone in 4 kHz, and heard as any other.
ToneEar simulated_ear(std::unique_ptr<ScpiSession> counter, double carrier_hz, double tone_hz,
                      bool is_upper);

}  // namespace heron
