#include "core/method/spread/spectrum_width.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/quantity/levels.h"
#include "core/signal/window.h"

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

/// Means over a few bins: a single bin of noise is no level.
class RunningMean {
 public:
  explicit RunningMean(TraceView trace) : sums_(trace.size() + 1, 0.0) {
    for (std::size_t k = 0; k < trace.size(); ++k)
      sums_[k + 1] = sums_[k] + static_cast<double>(trace[k]);
  }
  std::size_t bins() const { return sums_.size() - 1; }
  /// Over a bin and `half` on either side, as far as there are any.
  double at(std::size_t bin, std::size_t half) const {
    const std::size_t from = bin >= half ? bin - half : 0;
    const std::size_t to = std::min(bins(), bin + half + 1);
    return (sums_[to] - sums_[from]) / static_cast<double>(to - from);
  }

 private:
  std::vector<double> sums_;
};

/// Where the power is that stands 3 dB out of the noise, and as much again on each side: in a wide
/// recording the smallest error of the floor adds up to more than the signal.
FrequencyRange region_of_signal(const Spectrum& s, TraceView trace, double floor,
                                FrequencyRange search) {
  constexpr double kLeftOut = 0.0005;
  const RunningMean mean(trace);
  std::vector<double> counted(trace.size() + 1, 0.0);
  for (std::size_t k = 0; k < trace.size(); ++k) {
    const double f = s.frequency_hz(k);
    const double level = mean.at(k, 4);
    const bool counts = f >= search.first && f <= search.second && level > 2.0 * floor;
    counted[k + 1] = counted[k] + (counts ? level - floor : 0.0);
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

namespace {

double noise_share_of_bin(const Spectrum& s, Hold hold) {
  // A sum of K squares varies by 1/sqrt(K); the highest of many averages varies less.
  const double k = std::max(1.0, s.statistics.k_eff);
  return hold == Hold::max ? 1.28 / (std::log(k) + 0.577) : 1.0 / std::sqrt(k);
}

/// The expected highest of `count` standard normal values (Blom 1958).
double expected_highest(double count) {
  if (count < 2.0) return 0.0;
  // Normal quantile of (count - 0.375) / (count + 0.25), within 0.02 from two on.
  const double tail = 0.625 / (count + 0.25);
  const double t = std::sqrt(-2.0 * std::log(tail));
  return t - (2.30753 + 0.27061 * t) / (1.0 + 0.99229 * t + 0.04481 * t * t);
}

struct Highest {
  std::size_t bin = 0;
  double level = 0.0;
  double u = 0.0;
};

/// The highest level of a trace, without what picking the highest of noisy values adds.
Highest highest_in(const Spectrum& s, const RunningMean& mean, Hold hold, std::size_t from,
                   std::size_t to, std::size_t half) {
  Highest found;
  for (std::size_t k = from; k <= to; ++k) {
    if (const double level = mean.at(k, half); level > found.level) found = {k, level, 0.0};
  }
  const double bins = 2.0 * static_cast<double>(half) + 1.0;
  const double share =
      noise_share_of_bin(s, hold) * std::sqrt(enbw_bins(s.window) / std::max(bins, 2.0));
  double as_high = 0.0;
  for (std::size_t k = from; k <= to; ++k) {
    if (mean.at(k, half) > found.level * (1.0 - 3.0 * share)) as_high += 1.0;
  }
  // A running mean has about two independent values in its own width.
  const double excess = share * expected_highest(1.0 + 2.0 * as_high / bins);
  return {found.bin, found.level / (1.0 + excess), found.level * excess / 2.0};
}

/// One end of a trace less its floor: from a bin within the signal outwards, `way` = -1 or 1, up to
/// a bin without it.
class Edge {
 public:
  Edge(const RunningMean& mean, double floor, std::size_t inside, std::size_t end, int way)
      : mean_(mean), floor_(floor), inside_(inside), way_(way) {
    steps_ = static_cast<std::ptrdiff_t>(way > 0 ? end - inside : inside - end);
  }

  /// Where it falls through a level when smoothed, in bins outwards (between two, straight in dB):
  /// the middle of where it does so first and last, as noise makes several.
  double crossing(double wanted, std::size_t half) const {
    std::ptrdiff_t outer = steps_;
    while (outer > 0 && level(outer, half) < wanted) --outer;
    std::ptrdiff_t inner = 0;
    while (inner < steps_ && level(inner + 1, half) >= wanted) ++inner;
    const double last = between(outer, wanted, half);
    const double first = between(std::min(inner, outer), wanted, half);
    // What dips inside, such as a notch, is no edge.
    return last - first > 4.0 * (2.0 * static_cast<double>(half) + 1.0) ? last
                                                                        : (last + first) / 2.0;
  }

 private:
  double level(std::ptrdiff_t step, std::size_t half) const {
    return mean_.at(inside_ + static_cast<std::size_t>(way_ * step), half) - floor_;
  }

  double between(std::ptrdiff_t step, double wanted, std::size_t half) const {
    if (step >= steps_) return static_cast<double>(steps_);
    const double a = std::log(std::max(level(step, half), 1e-300));
    const double b = std::log(std::max(level(step + 1, half), 1e-300));
    const double part = a > b ? (a - std::log(wanted)) / (a - b) : 0.0;
    return static_cast<double>(step) + std::clamp(part, 0.0, 1.0);
  }

  const RunningMean& mean_;
  double floor_;
  std::size_t inside_;
  int way_;
  std::ptrdiff_t steps_ = 0;
};

/// Steps outwards from a bin to where the level has fallen 26 dB, without what smoothing and the
/// window add; `u` in bins.
struct Found {
  double steps = 0.0;
  double u = 0.0;
};

Found edge_at_26(const Edge& edge, const Highest& highest, std::size_t half,
                 const WindowBlur& blur) {
  const double wanted = highest.level * power_ratio_from_db(-26.0);
  constexpr double kFallU = 0.2;
  const double above = highest.level * power_ratio_from_db(-20.0);
  double at = 0.0;
  double fall = 0.0;  // bins for 6 dB
  // A steep edge needs no smoothing, and smoothing would move it.
  for (;;) {
    at = edge.crossing(wanted, half);
    fall = std::max(0.05, at - edge.crossing(above, half));
    if (half == 0 || 3.0 * static_cast<double>(half) <= fall) break;
    half /= 2;
  }
  // What falls exponentially moves outwards by half its slope times the variance of the blur.
  const double slope = 6.0 / kDbPerRelativePower / fall;
  const double width = 2.0 * static_cast<double>(half) + 1.0;
  const double fall_6 = at - edge.crossing(highest.level * power_ratio_from_db(-6.0), half);
  const auto by_window = [&](double more) {
    return std::max(blur.from_20.shift(fall + more), blur.from_6.shift(fall_6 + more));
  };
  const double by_mean = half == 0 ? 0.0 : slope * (width * width - 1.0) / 24.0;
  const double by_level = highest.u / highest.level / slope;
  // How long the fall took is not known better between bins; at a wall that decides.
  const double by_fall = (by_window(-kFallU) - by_window(kFallU)) / 2.0;
  return {at - by_window(0.0) - by_mean, std::hypot(by_level, by_fall)};
}

}  // namespace

WindowBlur::WindowBlur(WindowKind window) {
  constexpr double kStep = 0.01;
  constexpr double kReach = 6.0;
  std::vector<double> kernel;  // on both sides
  double all = 0.0;
  for (double x = -kReach; x < kReach + kStep / 2.0; x += kStep) {
    kernel.push_back(std::pow(window_response(window, x), 2));
    all += kernel.back();
  }
  for (std::size_t i = 0; i < kernel.size(); ++i)
    mean_distance += kernel[i] / all * std::abs(-kReach + kStep * static_cast<double>(i));
  // Edges that fall exponentially, from a wall to a gentle slope, as the window shows them.
  for (double slope = 60.0; slope > 0.04; slope /= 1.3) {
    const auto seen_at = [&](double db) {
      const double level = power_ratio_from_db(db);
      const auto seen = [&](double at) {
        double sum = 0.0;
        for (std::size_t i = 0; i < kernel.size(); ++i) {
          const double x = at - kReach + kStep * static_cast<double>(i);
          sum += kernel[i] * (x <= 0.0 ? 1.0 : std::exp(-slope * x));
        }
        return sum / all;
      };
      double low = -kReach;
      double high = kReach + 10.0 / slope;
      for (int round = 0; round < 40; ++round) {
        const double at = (low + high) / 2.0;
        (seen(at) > level ? low : high) = at;
      }
      return low;
    };
    const double at_26 = seen_at(-26.0);
    const double shift = at_26 - 26.0 / kDbPerRelativePower / slope;
    from_20.add(at_26 - seen_at(-20.0), shift);
    from_6.add(at_26 - seen_at(-6.0), shift);
  }
}

void EdgeShift::add(double fall, double shift) {
  falls_.push_back(fall);
  shifts_.push_back(shift);
}

double EdgeShift::shift(double fall) const {
  const auto above = std::upper_bound(falls_.begin(), falls_.end(), fall);
  if (above == falls_.begin()) return shifts_.front();
  if (above == falls_.end()) return shifts_.back() * falls_.back() / fall;
  const auto i = static_cast<std::size_t>(above - falls_.begin());
  return std::lerp(shifts_[i - 1], shifts_[i],
                   (fall - falls_[i - 1]) / (falls_[i] - falls_[i - 1]));
}

namespace {

const WindowBlur& blur_of_window() {
  static const WindowBlur blur(WindowKind::blackman_harris_4);
  return blur;
}

}  // namespace

RangePower signal_between_edges(const Spectrum& s, TraceView trace, double floor,
                                FrequencyRange range) {
  // Levels a little away from the edge, where the window no longer mixes both sides.
  constexpr double kFromBins = 2.0;
  constexpr double kToBins = 6.0;
  const auto level = [&](double edge_hz, double way) {
    const double a = edge_hz + way * kFromBins * s.bin_hz();
    const double b = edge_hz + way * kToBins * s.bin_hz();
    return band_power(s, trace, std::min(a, b), std::max(a, b)) / (kToBins - kFromBins);
  };
  const double share = blur_of_window().mean_distance / 2.0;
  const double below = share * (level(range.first, -1.0) - level(range.first, 1.0));
  const double above = share * (level(range.second, 1.0) - level(range.second, -1.0));
  return {signal_in(s, trace, floor, range) - below - above, std::abs(below) + std::abs(above)};
}

std::optional<WidthAt26> width_at_26(const Spectrum& s, TraceView trace, Hold hold, double floor,
                                     FrequencyRange region, double width_hz) {
  const auto bin_of = [&](double f) {
    return static_cast<std::size_t>(
        std::clamp(std::round(s.position(f)), 0.0, static_cast<double>(trace.size() - 1)));
  };
  const auto bins = [&](double share) {
    return static_cast<std::size_t>(std::max(0.0, share * width_hz / s.bin_hz()));
  };
  const std::size_t from = bin_of(region.first);
  const std::size_t to = bin_of(region.second);
  const RunningMean mean(trace);
  Highest highest = highest_in(s, mean, hold, from, to, bins(0.03));
  highest.level -= floor;
  if (highest.level * power_ratio_from_db(-26.0) < floor) return std::nullopt;
  const auto found = [&](std::size_t end, int way) {
    return edge_at_26(Edge(mean, floor, highest.bin, end, way), highest, bins(0.02),
                      blur_of_window());
  };
  const Found low = found(from, -1);
  const Found high = found(to, 1);
  const double middle_hz = s.frequency_hz(highest.bin);
  return WidthAt26{{middle_hz - low.steps * s.bin_hz(), middle_hz + high.steps * s.bin_hz()},
                   std::hypot(low.u, high.u) * s.bin_hz()};
}

}  // namespace heron
