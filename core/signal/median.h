#pragma once

#include <algorithm>
#include <cstddef>
#include <vector>

namespace heron {

/// What makes a standard deviation of the median absolute deviation of a normal distribution.
inline constexpr double kMedianToSigma = 1.4826;

/// The upper middle one of some values, which are put into another order; there is at least one.
template <class T>
T median_of(std::vector<T>& values) {
  const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return *middle;
}

}  // namespace heron
