#pragma once

#include "core/method/result.h"

namespace heron {

struct Evidence;

Result evaluate_adjust(const Evidence& evidence);

}  // namespace heron
