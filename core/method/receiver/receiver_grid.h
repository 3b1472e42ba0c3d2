#pragma once

#include "core/method/method.h"

namespace heron {

/// All that is known of a receiver, a band a row: what other tests of the evaluation say, never a
/// copy of it.
const Method& receiver_grid_method();

}  // namespace heron
