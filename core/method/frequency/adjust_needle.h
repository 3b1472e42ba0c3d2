#pragma once

#include "core/method/frequency/adjust_state.h"
#include "core/method/needle.h"

namespace heron {

/// What is seen while somebody turns; there are logged readings.
Needle adjust_needle(const AdjustState& state);

}  // namespace heron
