#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// Curves over a setting: where they cross, which is best for what counts, and what it costs.
Result evaluate_family(const Evidence& evidence);

}  // namespace heron
