#pragma once

#include "core/method/method.h"

namespace heron {

const Method& lock_method();

}  // namespace heron
