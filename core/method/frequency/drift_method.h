#pragma once

#include "core/method/method.h"

namespace heron {

const Method& drift_method();

}  // namespace heron
