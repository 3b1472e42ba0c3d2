#include "core/signal/straight_line.h"

#include <cassert>
#include <numeric>

namespace heron {

std::optional<StraightLine> straight_line(std::span<const double> x, std::span<const double> y) {
  assert(x.size() == y.size());
  if (x.size() < 2) return std::nullopt;
  const auto n = static_cast<double>(x.size());
  StraightLine line{std::accumulate(x.begin(), x.end(), 0.0) / n,
                    std::accumulate(y.begin(), y.end(), 0.0) / n, 0.0};
  double xx = 0.0;
  double xy = 0.0;
  for (std::size_t i = 0; i < x.size(); ++i) {
    xx += (x[i] - line.mean_x) * (x[i] - line.mean_x);
    xy += (x[i] - line.mean_x) * (y[i] - line.mean_y);
  }
  if (!(xx > 0.0)) return std::nullopt;
  line.slope = xy / xx;
  return line;
}

}  // namespace heron
