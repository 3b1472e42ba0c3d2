#pragma once

#include "core/chain/chain.h"
#include "core/method/two_tone/two_tone.h"

namespace heron {

/// The analysis as if it had been recorded at the device: each tone and product goes back through
/// the hook-up at its own radio frequency (`center_hz` + capture frequency, Hz). Where the full
/// scale is known in dBm, levels are those at the device, and the ratings of the hook-up are
/// checked against them. InputError: a frequency outside a part's table.
TwoToneAnalysis refer_to_device(const TwoToneAnalysis& analysis, const Chain& chain,
                                double center_hz);

}  // namespace heron
