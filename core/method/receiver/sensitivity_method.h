#pragma once

#include "core/method/method.h"

namespace heron {

/// How weak a signal a receiver hears, band by band.
const Method& sensitivity_method();

}  // namespace heron
