#pragma once

#include "core/method/method.h"

namespace heron {

const Method& adjust_method();

}  // namespace heron
