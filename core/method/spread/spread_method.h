#pragma once

#include "core/method/method.h"

namespace heron {

/// Noise or speech instead of tones, one stimulus for all steps. Noise power ratio (NPR): mean
/// power density in the pass band over that in the notch, dB; band and notch in Hz of audio, a
/// tenth of each left out at its edges. Where no notch is played: power in the stronger adjacent
/// channel relative to the channel's, dB (adjacent-channel power ratio). Example: a notch 46 dB
/// below the pass band against "at least 30 dB" is a margin of +16 dB.
const Method& noise_method();

/// Width that holds 99 % of the power of noise or speech, Hz, half a per cent left out on each side
/// (occupied bandwidth, ITU-R SM.443); one stimulus for all steps.
/// Example: 2380 Hz against "at most 2800 Hz" is a margin of +420 Hz.
const Method& bandwidth_method();

}  // namespace heron
