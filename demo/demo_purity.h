#pragma once

#include <string>

#include "store/hookup.h"

namespace heron::demo {

/// Harmonics and spurs of an invented transmitter on 14.2 MHz, taken through a hook-up at so many
/// watts, against the mask of an invented club. Returns its test.
Id add_purity(Shack& shack, Id evaluation, Id hookup, double watts, const std::string& taken_at);

}  // namespace heron::demo
