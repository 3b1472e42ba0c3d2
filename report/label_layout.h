#pragma once

#include <vector>

namespace heron {

/// A label's place in a picture; y grows downward.
struct LabelBox {
  double x = 0.0;
  double y = 0.0;
  double width = 0.0;
  double height = 0.0;
  bool overlaps(const LabelBox& other) const {
    return x < other.x + other.width && other.x < x + width && y < other.y + other.height &&
           other.y < y + height;
  }
};

/// Moves labels up or down, as little as needed, until none lies over an obstacle or another; the
/// first in `labels` chooses first. All stay between `top` and `bottom`; one that finds no room
/// there stays where it was.
void spread_labels(const std::vector<LabelBox*>& labels, std::vector<LabelBox> obstacles,
                   double top, double bottom);

}  // namespace heron
