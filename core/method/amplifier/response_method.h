#pragma once

#include "core/method/method.h"

namespace heron {

/// Gain of an amplifier over frequency at one or several drives.
const Method& response_method();

}  // namespace heron
