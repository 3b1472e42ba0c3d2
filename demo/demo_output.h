#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// Output per band of a transceiver of 30 W: cold, and after a minute of key-down.
void add_output(Shack& shack, Id evaluation, const std::string& at);

}  // namespace heron::demo
