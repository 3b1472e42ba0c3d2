#include "report/label_layout.h"

#include <algorithm>
#include <cmath>

namespace heron {

void spread_labels(const std::vector<LabelBox*>& labels, std::vector<LabelBox> obstacles,
                   double top, double bottom) {
  for (LabelBox* label : labels) {
    const double last = std::max(top, bottom - label->height);
    const double wished = std::clamp(label->y, top, last);
    label->y = wished;
    const auto is_free = [&](double y) {
      LabelBox moved = *label;
      moved.y = y;
      return std::none_of(obstacles.begin(), obstacles.end(),
                          [&](const LabelBox& other) { return other.overlaps(moved); });
    };
    // A label can only come to rest where it was, or against an edge of what is in its way.
    double best = wished;
    double least = is_free(wished) ? 0.0 : bottom - top;
    for (const LabelBox& other : obstacles) {
      for (const double y : {other.y - label->height, other.y + other.height}) {
        if (y < top || y > last || std::abs(y - wished) >= least || !is_free(y)) continue;
        least = std::abs(y - wished);
        best = y;
      }
    }
    label->y = best;
    obstacles.push_back(*label);
  }
}

}  // namespace heron
