#pragma once

#include "core/method/method.h"

namespace heron {

/// What changes when a device is tapped, touched, or fed differently.
const Method& touch_method();

}  // namespace heron
