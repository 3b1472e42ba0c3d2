#pragma once

#include <string>
#include <string_view>

#include "core/judge/mask.h"

namespace heron {

/// A mask as people write it, a range a line:
///   1 MHz to 30 MHz: −43 dBc
///   30 MHz to 1 GHz: 43 + 10 lg P, at most 70 dB
///   carrier ± 10 kHz to 100 kHz: −40 dBc
///   1 to 40 GHz: −30 dBm
std::string mask_text(const Mask& mask);

/// The reverse; empty lines and what follows a # are left out. InputError naming the line.
Mask parse_mask_text(std::string_view text, const std::string& name);

}  // namespace heron
