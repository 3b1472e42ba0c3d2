#pragma once

#include "core/method/method.h"

namespace heron {

/// Two equal tones, harder and harder: intermodulation products over output power.
const Method& two_tone_method();

}  // namespace heron
