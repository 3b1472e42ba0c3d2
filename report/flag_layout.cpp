#include "report/flag_layout.h"

#include <algorithm>
#include <numeric>

#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kFlagHeight = kPennantHeight + 16.0;
constexpr double kAbovePeak = 40.0;
constexpr double kAboveLimit = 46.0;

/// Indices of the pennants in the order in which they choose their places: the worst, then by
/// level.
std::vector<std::size_t> by_precedence(const std::vector<PlotPoint>& pennants) {
  std::vector<std::size_t> order(pennants.size());
  std::iota(order.begin(), order.end(), 0U);
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return is_worst(pennants[a]) != is_worst(pennants[b]) ? is_worst(pennants[a])
                                                          : pennants[a].y > pennants[b].y;
  });
  return order;
}

}  // namespace

bool SpectrumFrame::shows(double frequency_hz) const {
  const double x = x_of(frequency_hz);
  return x > left + 2.0 && x < right - 2.0;
}

std::string pennant_words(const PlotPoint& pennant) {
  return (pennant.bound == Bound::upper ? "\u2264 " : "") + number_text(pennant.y, 1);
}

std::optional<double> mask_level(const PlotPanel& panel) {
  const PlotLayer* mask = panel.find(PlotLayer::Kind::mask);
  return mask != nullptr ? std::optional(mask->points.front().y) : std::nullopt;
}

std::vector<LabelBox> place_pennants(const std::vector<PlotPoint>& pennants,
                                     std::optional<double> limit, const SpectrumFrame& frame,
                                     const std::vector<LabelBox>& labels,
                                     const std::function<double(const std::string&)>& word_width) {
  const double limit_y = limit ? frame.y_of(*limit) : 0.0;
  std::vector<LabelBox> boxes;
  for (const PlotPoint& p : pennants) {
    double top = frame.y_of(p.y) - kAbovePeak;
    if (limit)
      top =
          p.y > *limit - 3.0 ? std::min(top, limit_y - kAboveLimit) : std::max(top, limit_y + 5.0);
    const double width = std::max(kPennantWidth, word_width(pennant_words(p)) + 6.0);
    const double x = frame.x_of(p.x);
    boxes.push_back({p.is_left ? x - width : x, top, width, kFlagHeight});
  }
  std::vector<LabelBox> obstacles = labels;
  if (limit) obstacles.push_back({frame.left, limit_y - 2.0, frame.right - frame.left, 4.0});
  std::vector<LabelBox*> shown;
  for (const std::size_t i : by_precedence(pennants)) {
    if (frame.shows(pennants[i].x)) shown.push_back(&boxes[i]);
  }
  spread_labels(shown, std::move(obstacles), frame.top - 6.0, frame.bottom - 1.0);
  return boxes;
}

}  // namespace heron
