#include "simbench/sim_output.h"

#include <algorithm>
#include <cmath>

namespace heron::sim {

void SimOutput::fill(double center_hz, double rate_hz, double start_s, Block out,
                     std::mt19937_64& random) const {
  if (!amplifier_) {
    device_.output(center_hz, rate_hz, start_s, out, random);
    return;
  }
  // The amplifier makes its harmonics from what comes in at the carrier; the exciter's own are
  // taken to end at its input filter.
  const double carrier = device_.carrier_hz();
  const int zone = std::max(1, static_cast<int>(std::lround(center_hz / carrier)));
  if (zone > Amplifier::kHighestZone) {
    std::fill(out.begin(), out.end(), std::complex<float>(0.0F));
    return;
  }
  device_.output(center_hz / zone, rate_hz, start_s, out, random);
  amplifier_->apply(out, carrier, zone);
}

}  // namespace heron::sim
