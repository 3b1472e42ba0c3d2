#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

Result evaluate_indicator(const Evidence& evidence);

}  // namespace heron
