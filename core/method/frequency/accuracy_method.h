#pragma once

#include "core/method/method.h"

namespace heron {

/// The row "reference": how far off a frequency reference is, by counter, beat note, zero beat or
/// generator, and what that makes on each band.
const Method& accuracy_method();

}  // namespace heron
