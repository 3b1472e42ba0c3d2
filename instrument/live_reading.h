#pragma once

#include <string_view>

#include "core/method/evidence.h"

namespace heron {

/// What an instrument showed just now, with its unit and the time.
Reading live_reading(std::string_view quantity, double value, const std::string& instrument);

}  // namespace heron
