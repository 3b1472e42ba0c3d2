#pragma once

#include "core/method/method.h"

namespace heron {

/// Two equal tones, harder and harder: intermodulation products of odd orders (IM3 at 2 f1 - f2 and
/// 2 f2 - f1, ITU-R SM.326 terms) over output power. Levels in dB below one tone (dBc) or below the
/// peak envelope power, which is 6.02 dB above one of two equal tones; frequencies in Hz, PEP in
/// dBm at the device. Example: IM3 36.0 dB below one tone is 42.0 dB below PEP; against "at most
/// -30 dB, PEP" the margin is +12.0 dB in either convention.
const Method& two_tone_method();

}  // namespace heron
