#pragma once

#include <functional>
#include <stop_token>

namespace heron {

/// Told how far long work is, 0 to 1; from any of the threads that do it, one at a time.
using Progress = std::function<void(double)>;

}  // namespace heron
