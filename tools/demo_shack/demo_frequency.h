#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// The reference of a transceiver that reads a little low: its test point counted, cover on.
void add_reference(Shack& shack, Id evaluation, const std::string& at);

}  // namespace heron::demo
