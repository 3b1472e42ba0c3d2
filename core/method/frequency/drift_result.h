#pragma once

#include "core/method/result.h"

namespace heron {

struct Evidence;

Result evaluate_drift(const Evidence& evidence);

}  // namespace heron
