#pragma once

#include "core/method/method.h"

namespace heron {

/// From a receiver's input to its intermediate frequency, band by band.
const Method& conversion_method();

}  // namespace heron
