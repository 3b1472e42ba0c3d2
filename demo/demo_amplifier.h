#pragma once

#include <string>

#include "store/shack.h"

namespace heron::demo {

/// Gain and compression, and frequency response, of the 1296 MHz amplifier, typed.
void add_ruff(Shack& shack, Id evaluation, const std::string& at);
/// Gain of the HF amplifier, drive and output read with one meter.
void add_curlew(Shack& shack, Id evaluation, Id hookup, const std::string& at);

}  // namespace heron::demo
