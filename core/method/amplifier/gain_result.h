#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// Everything that a test of an amplifier's gain says.
Result evaluate_gain(const Evidence& evidence);

}  // namespace heron
