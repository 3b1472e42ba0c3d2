#pragma once

#include "core/method/method.h"

namespace heron {

/// What is seen to before an amplifier gets power for the first time; nothing else of the
/// evaluation is keyed by the program before.
const Method& first_power_method();

}  // namespace heron
