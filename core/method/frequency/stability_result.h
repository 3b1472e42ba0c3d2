#pragma once

#include "core/method/result.h"

namespace heron {

struct Evidence;

Result evaluate_stability(const Evidence& evidence);

}  // namespace heron
