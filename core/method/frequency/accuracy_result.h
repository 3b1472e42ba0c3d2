#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// Everything that a test of frequency accuracy says.
Result evaluate_accuracy(const Evidence& evidence);

}  // namespace heron
