#pragma once

#include "core/method/method.h"

namespace heron {

/// Harmonics and spurious emissions (terms of ITU-R SM.329): recordings, traces and typed lines
/// together against a mask over frequency. Levels in dB below the carrier's mean power (dBc) or in
/// dBm at the device's terminals, frequencies in Hz. Check: 14.2 MHz, typed 28.4 MHz -41.2 dBc
/// against 43 + 10 lg P at most 50 dB, P = 30 W: limit -50 dBc, 8.8 dB over it.
const Method& purity_method();

}  // namespace heron
