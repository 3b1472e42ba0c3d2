#include "simbench/sim_output.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace heron::sim {

/// What arrives at the amplifier, or leaves the bench without one.
void SimOutput::drive(double center_hz, double rate_hz, double start_s, Block out,
                      std::mt19937_64& random) const {
  if (!generated_w_) {
    device_.output(center_hz, rate_hz, start_s, out, random);
    return;
  }
  const double off_hz = carrier_hz_ - center_hz;
  const double amplitude = std::abs(off_hz) < rate_hz / 2.0 ? std::sqrt(*generated_w_) : 0.0;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = start_s + static_cast<double>(i) / rate_hz;
    out[i] = std::complex<float>(
        std::polar(amplitude, 2.0 * std::numbers::pi * std::fmod(off_hz * t, 1.0)));
  }
}

void SimOutput::fill(double center_hz, double rate_hz, double start_s, Block out,
                     std::mt19937_64& random) const {
  if (synthesizer_) {
    if (is_keyed_)
      synthesizer_->fill(center_hz, rate_hz, start_s, out, random);
    else
      std::fill(out.begin(), out.end(), std::complex<float>(0.0F));
    return;
  }
  if (!amplifier_) {
    drive(center_hz, rate_hz, start_s, out, random);
    return;
  }
  // The amplifier makes its harmonics from what comes in at the carrier; the exciter's own are
  // taken to end at its input filter.
  const double carrier = carrier_hz_;
  const int zone = std::max(1, static_cast<int>(std::lround(center_hz / carrier)));
  if (zone > Amplifier::kHighestZone) {
    std::fill(out.begin(), out.end(), std::complex<float>(0.0F));
    return;
  }
  drive(center_hz / zone, rate_hz, start_s, out, random);
  amplifier_->apply(out, carrier, zone);
}

}  // namespace heron::sim
