#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// One state, or what a change did: curve, RMS phase over the counted range, residual FM, lines.
Result evaluate_noise(const Evidence& evidence);

}  // namespace heron
