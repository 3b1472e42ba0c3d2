#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// Godwit, band by band: one is deaf, one is too weak, one too close to call.
void add_sensitivity(Shack& shack, Id evaluation, const std::string& at);

}  // namespace heron::demo
