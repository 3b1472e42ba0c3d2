#pragma once

#include "core/method/method.h"

namespace heron {

const Method& reciprocal_method();

}  // namespace heron
