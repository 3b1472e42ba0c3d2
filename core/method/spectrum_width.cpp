#include "core/method/spectrum_width.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/quantity/levels.h"

namespace heron {
namespace {

/// Signal power counted up from the lowest bin; between the edges of bins straight.
class CountedPower {
 public:
  CountedPower(const Spectrum& s, TraceView trace, double floor)
      : start_hz_(s.frequency_hz(0) - s.bin_hz() / 2.0), bin_hz_(s.bin_hz()) {
    counted_.reserve(trace.size() + 1);
    counted_.push_back(0.0);
    for (const float p : trace)
      counted_.push_back(counted_.back() + static_cast<double>(p) - floor);
  }

  double up_to(double hz) const {
    const double x = std::clamp((hz - start_hz_) / bin_hz_, 0.0, last());
    const auto k = std::min(static_cast<std::size_t>(x), counted_.size() - 2);
    return std::lerp(counted_[k], counted_[k + 1], x - static_cast<double>(k));
  }

  /// Where, going from one frequency to another, the power on the way first reaches `share`.
  double frequency_of_share(double from_hz, double to_hz, double share) const {
    const bool is_rising = to_hz > from_hz;
    const double start = up_to(from_hz);
    const auto gathered = [&](double hz) { return std::abs(up_to(hz) - start); };
    const auto is_reached = [&](double value) {
      return is_rising ? value - start >= share : start - value >= share;
    };
    // Edges between bins on the way.
    const double x = (from_hz - start_hz_) / bin_hz_;
    auto edge = static_cast<std::ptrdiff_t>(is_rising ? std::floor(x) + 1.0 : std::ceil(x) - 1.0);
    double previous = from_hz;
    while (edge >= 0 && edge < static_cast<std::ptrdiff_t>(counted_.size())) {
      const double hz = start_hz_ + static_cast<double>(edge) * bin_hz_;
      if (is_rising ? hz >= to_hz : hz <= to_hz) break;
      if (is_reached(counted_[static_cast<std::size_t>(edge)])) {
        const double before = gathered(previous);
        const double step = gathered(hz) - before;
        return step > 0.0 ? std::lerp(previous, hz, std::clamp((share - before) / step, 0.0, 1.0))
                          : hz;
      }
      previous = hz;
      edge += is_rising ? 1 : -1;
    }
    return to_hz;
  }

 private:
  double last() const { return static_cast<double>(counted_.size() - 1); }
  double start_hz_;
  double bin_hz_;
  std::vector<double> counted_;
};

/// Mean over a few bins: a single bin of noise is no level.
std::vector<double> smoothed(TraceView trace, std::size_t half) {
  std::vector<double> sums(trace.size() + 1, 0.0);
  for (std::size_t k = 0; k < trace.size(); ++k)
    sums[k + 1] = sums[k] + static_cast<double>(trace[k]);
  std::vector<double> out(trace.size());
  for (std::size_t k = 0; k < trace.size(); ++k) {
    const std::size_t from = k >= half ? k - half : 0;
    const std::size_t to = std::min(trace.size(), k + half + 1);
    out[k] = (sums[to] - sums[from]) / static_cast<double>(to - from);
  }
  return out;
}

/// Where the power is that stands 3 dB out of the noise, and as much again on each side: in a wide
/// recording the smallest error of the floor adds up to more than the signal.
FrequencyRange region_of_signal(const Spectrum& s, TraceView trace, double floor,
                                FrequencyRange search) {
  constexpr double kLeftOut = 0.0005;
  const std::vector<double> level = smoothed(trace, 4);
  std::vector<double> counted(level.size() + 1, 0.0);
  for (std::size_t k = 0; k < level.size(); ++k) {
    const double f = s.frequency_hz(k);
    const bool counts = f >= search.first && f <= search.second && level[k] > 2.0 * floor;
    counted[k + 1] = counted[k] + (counts ? level[k] - floor : 0.0);
  }
  const double total = counted.back();
  if (!(total > 0.0)) return search;
  const auto bin_at = [&](double share) {
    return static_cast<std::size_t>(std::lower_bound(counted.begin() + 1, counted.end(), share) -
                                    counted.begin() - 1);
  };
  const double low = s.frequency_hz(bin_at(kLeftOut * total));
  const double high = s.frequency_hz(bin_at((1.0 - kLeftOut) * total));
  const double width = std::max(high - low, 4.0 * s.rbw_hz());
  return {std::max(search.first, low - width), std::min(search.second, high + width)};
}

}  // namespace

double signal_in(const Spectrum& s, TraceView trace, double floor, FrequencyRange range) {
  return band_power(s, trace, range.first, range.second) -
         floor * (range.second - range.first) / s.bin_hz();
}

FrequencyRange occupied_in(const Spectrum& s, TraceView trace, double floor, double fraction,
                           FrequencyRange search) {
  FrequencyRange region = region_of_signal(s, trace, floor, search);
  FrequencyRange found = region;
  const CountedPower power(s, trace, floor);
  for (int round = 0; round < 12; ++round) {
    const double total = power.up_to(region.second) - power.up_to(region.first);
    if (!(total > 0.0)) return found;
    const double share = (1.0 - fraction) / 2.0 * total;
    found = {power.frequency_of_share(region.first, region.second, share),
             power.frequency_of_share(region.second, region.first, share)};
    const double width = std::max(found.second - found.first, 4.0 * s.rbw_hz());
    const FrequencyRange narrower{std::max(region.first, found.first - width),
                                  std::min(region.second, found.second + width)};
    if (narrower == region) break;
    region = narrower;
  }
  return found;
}

std::optional<FrequencyRange> width_at_26(const Spectrum& s, TraceView trace, double floor,
                                          FrequencyRange region, std::size_t half) {
  const std::vector<double> level = smoothed(trace, half);
  const auto bin_of = [&](double f) {
    return static_cast<std::size_t>(
        std::clamp(std::round(s.position(f)), 0.0, static_cast<double>(level.size() - 1)));
  };
  const std::size_t from = bin_of(region.first);
  const std::size_t to = bin_of(region.second);
  const double highest = *std::max_element(level.begin() + static_cast<std::ptrdiff_t>(from),
                                           level.begin() + static_cast<std::ptrdiff_t>(to) + 1);
  const double wanted = highest * power_ratio_from_db(-26.0);
  if (wanted < 2.0 * floor) return std::nullopt;
  // Between two bins straight in dB.
  const auto crossing = [&](std::size_t outside, std::size_t inside) {
    const double a = std::log(std::max(level[outside], 1e-300));
    const double b = std::log(level[inside]);
    const double part = b > a ? (std::log(wanted) - a) / (b - a) : 0.0;
    return std::lerp(s.frequency_hz(outside), s.frequency_hz(inside), std::clamp(part, 0.0, 1.0));
  };
  std::size_t low = from;
  while (low < to && level[low] < wanted) ++low;
  std::size_t high = to;
  while (high > low && level[high] < wanted) --high;
  return FrequencyRange{low > from ? crossing(low - 1, low) : s.frequency_hz(low),
                        high < to ? crossing(high + 1, high) : s.frequency_hz(high)};
}

}  // namespace heron
