#pragma once

#include <functional>
#include <stop_token>

namespace heron {

/// Told how far long work is, 0 to 1; from any of the threads that do it, one at a time.
using Progress = std::function<void(double)>;

/// Progress of a part of the work that reaches from `from` to `to` of the whole.
inline Progress progress_between(const Progress& whole, double from, double to) {
  if (!whole) return {};
  return [whole, from, to](double fraction) { whole(from + (to - from) * fraction); };
}

}  // namespace heron
