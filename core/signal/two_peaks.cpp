#include "core/signal/two_peaks.h"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

constexpr std::size_t kLeastValues = 10;
constexpr double kLeastShare = 0.2;
constexpr double kClear = 6.0;

struct Group {
  double mean = 0.0;
  double deviation = 0.0;
};

Group group_of(const std::vector<double>& v, std::size_t from, std::size_t to) {
  Group g;
  const auto n = static_cast<double>(to - from);
  for (std::size_t i = from; i < to; ++i) g.mean += v[i] / n;
  for (std::size_t i = from; i < to; ++i) g.deviation += (v[i] - g.mean) * (v[i] - g.mean) / n;
  g.deviation = std::sqrt(g.deviation);
  return g;
}

}  // namespace

std::optional<TwoPeaks> two_peaks(std::vector<double> values) {
  if (values.size() < kLeastValues) return std::nullopt;
  std::sort(values.begin(), values.end());
  // The widest gap parts them.
  const auto edge = static_cast<std::size_t>(kLeastShare * static_cast<double>(values.size()));
  std::size_t cut = 0;
  double widest = 0.0;
  for (std::size_t i = std::max<std::size_t>(1, edge);
       i + edge <= values.size() && i < values.size(); ++i) {
    if (values[i] - values[i - 1] <= widest) continue;
    widest = values[i] - values[i - 1];
    cut = i;
  }
  if (cut == 0) return std::nullopt;
  const Group low = group_of(values, 0, cut);
  const Group high = group_of(values, cut, values.size());
  if (high.mean - low.mean < kClear * std::max(low.deviation, high.deviation)) return std::nullopt;
  return TwoPeaks{low.mean, high.mean};
}

}  // namespace heron
