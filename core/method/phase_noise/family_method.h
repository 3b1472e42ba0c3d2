#pragma once

#include "core/method/method.h"

namespace heron {

const Method& noise_family_method();

}  // namespace heron
