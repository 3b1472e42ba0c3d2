#pragma once

#include "store/shack.h"

namespace heron::demo {

/// Bittern with its case open, tapped, touched, and fed by less and by a battery: a minute of it.
void add_touch_test(Shack& shack, Id evaluation, const std::string& at);

}  // namespace heron::demo
