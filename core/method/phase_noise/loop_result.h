#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// A loop as built, and what another part would do: crossover, phase margin, noise of each
/// contributor against what was measured over its current in the same evaluation.
Result evaluate_loop(const Evidence& evidence);

}  // namespace heron
