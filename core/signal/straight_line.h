#pragma once

#include <optional>
#include <span>

namespace heron {

/// y = mean_y + slope (x - mean_x), by least squares.
struct StraightLine {
  double mean_x = 0.0;
  double mean_y = 0.0;
  double slope = 0.0;
};
/// nullopt where all x are one, or there are fewer than two.
std::optional<StraightLine> straight_line(std::span<const double> x, std::span<const double> y);

}  // namespace heron
