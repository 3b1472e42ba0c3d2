#pragma once

#include "core/method/method.h"

namespace heron {

/// Gain and compression of an amplifier over drive, with its DC power, heat and harmonics.
const Method& gain_method();

}  // namespace heron
