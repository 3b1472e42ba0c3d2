#pragma once

#include "core/method/method.h"

namespace heron {

const Method& loop_method();

}  // namespace heron
