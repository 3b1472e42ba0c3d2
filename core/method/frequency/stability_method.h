#pragma once

#include "core/method/method.h"

namespace heron {

const Method& stability_method();

}  // namespace heron
