#pragma once

#include "core/method/evidence.h"
#include "core/method/purity/purity.h"

namespace heron {

/// What all recordings, traces and typed lines of a test say together. Its items are the lines, the
/// carrier first.
Result evaluate_purity(const Evidence& evidence);

}  // namespace heron
