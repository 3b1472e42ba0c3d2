#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// What a strong neighbour costs through the oscillator's noise, at each offset and level; the
/// curve is that of the phase-noise test in the same evaluation.
Result evaluate_reciprocal(const Evidence& evidence);

}  // namespace heron
