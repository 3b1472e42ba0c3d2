#pragma once

#include <optional>
#include <vector>

namespace heron {

/// Two groups of values with a clear gap between them, such as counts that jump between two
/// frequencies: where each lies.
struct TwoPeaks {
  double low = 0.0;
  double high = 0.0;
};
/// At least ten values, a fifth of them on either side, and a distance of the two means of six
/// times the larger standard deviation of both (a normal distribution cut in its middle has 2.6).
std::optional<TwoPeaks> two_peaks(std::vector<double> values);

}  // namespace heron
