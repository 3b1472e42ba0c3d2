#pragma once

#include "core/method/method.h"

namespace heron {

/// What a receiver's indicator really means, reading by reading, band by band.
const Method& indicator_method();

}  // namespace heron
