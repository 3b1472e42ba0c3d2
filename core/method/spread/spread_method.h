#pragma once

#include "core/method/method.h"

namespace heron {

/// Noise or speech instead of tones, one stimulus for all steps. Noise power ratio: density in the
/// pass band over density in the notch, dB; adjacent-channel power where no notch is played.
const Method& noise_method();

/// Width that holds 99 % of the power of noise or speech, Hz (ITU-R SM.443), one stimulus for all
/// steps.
const Method& bandwidth_method();

}  // namespace heron
