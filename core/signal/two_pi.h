#pragma once

#include <numbers>

namespace heron {

inline constexpr double kTwoPi = 2.0 * std::numbers::pi;

}  // namespace heron
