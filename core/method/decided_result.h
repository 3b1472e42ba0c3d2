#pragma once

#include "core/method/method.h"

namespace heron {

/// Evaluated, with what somebody decided of it: that it is good enough, or to be repeated.
Result decided_result(const Method& method, const Evidence& evidence);

}  // namespace heron
