#pragma once

#include "core/judge/mask.h"
#include "core/method/result.h"

namespace heron {

/// A mask between two frequencies as a plot shows it, dB re carrier.
PlotLayer mask_layer(const Mask& mask, const CarrierPower& carrier, double from_hz, double to_hz);

}  // namespace heron
