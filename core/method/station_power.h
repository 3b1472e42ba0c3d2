#pragma once

namespace heron {

/// More than any amateur station sends, dBm: 20 kW. A reading above it is doubted.
inline constexpr double kMostStationDbm = 73.0;

}  // namespace heron
