#pragma once

#include <functional>
#include <string>

#include "store/shack.h"

namespace heron::demo {

/// What the devices of the demo are, what was done to them, and what others found.
void add_device_cards(Shack& shack, const std::function<std::string(double)>& days_ago);

}  // namespace heron::demo
