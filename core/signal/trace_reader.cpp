#include "core/signal/trace_reader.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"
#include "core/signal/noise_quantile.h"

namespace heron {
namespace {

constexpr double kFilterDb = 3.0103;
constexpr double kSkirtEndDb = -90.0;
constexpr std::size_t kSide = 16;          ///< free points looked at on each side
constexpr std::size_t kBeside = 8;         ///< of them, where a step follows further away
constexpr std::size_t kFewestBeside = 5;   ///< that say something about the floor
constexpr std::ptrdiff_t kFarthest = 120;  ///< points away that still count as beside
constexpr double kOneIn20 = 1.645;

double quantile(std::vector<double>& values, double fraction) {
  const auto at =
      values.begin() + static_cast<std::ptrdiff_t>(fraction * static_cast<double>(values.size()));
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

std::vector<double> frequencies(std::span<const TracePeak> peaks) {
  std::vector<double> hz;
  for (const TracePeak& peak : peaks) hz.push_back(peak.frequency_hz);
  return hz;
}

}  // namespace

double gaussian_skirt_db(double distance_hz, double rbw_hz) {
  const double x = 2.0 * distance_hz / rbw_hz;
  return std::max(-kFilterDb * x * x, kSkirtEndDb);
}

TraceReader::TraceReader(const SpectrumTrace& trace)
    : t_(trace), spacing_hz_(trace.spacing_hz()), rbw_hz_(trace.rbw_hz.value_or(spacing_hz_)) {
  sweeps_ = estimated_sweeps();
  if (t_.rbw_hz) return;
  const std::vector<TracePeak> strongest = lines(1);
  if (!strongest.empty()) rbw_hz_ = std::max(spacing_hz_, width_at(strongest[0]));
}

std::size_t TraceReader::index_of(double hz) const {
  const auto at = std::lower_bound(t_.frequency_hz.begin(), t_.frequency_hz.end(), hz);
  return std::min(static_cast<std::size_t>(at - t_.frequency_hz.begin()),
                  t_.frequency_hz.size() - 1);
}

bool TraceReader::covers(double hz) const {
  return hz >= t_.frequency_hz.front() && hz <= t_.frequency_hz.back();
}

TracePeak TraceReader::peak_near(double hz, double within_hz) const {
  std::size_t best = index_of(hz);
  bool any = false;
  for (std::size_t i = index_of(hz - within_hz); i < t_.frequency_hz.size(); ++i) {
    if (t_.frequency_hz[i] < hz - within_hz) continue;
    if (t_.frequency_hz[i] > hz + within_hz) break;
    if (!any || t_.level_dbm[i] > t_.level_dbm[best]) best = i;
    any = true;
  }
  return refined(best);
}

TracePeak TraceReader::refined(std::size_t i) const {
  TracePeak peak{t_.frequency_hz[i], t_.level_dbm[i]};
  if (i == 0 || i + 1 >= t_.frequency_hz.size()) return peak;
  const double a = t_.level_dbm[i - 1];
  const double b = t_.level_dbm[i];
  const double c = t_.level_dbm[i + 1];
  const double bend = a - 2.0 * b + c;
  // A parabola in dB, only where the three points belong to one line: over a floor it means
  // nothing.
  const double span = t_.frequency_hz[i + 1] - t_.frequency_hz[i - 1];
  const double rbw = t_.rbw_hz ? rbw_hz_ : std::max(rbw_hz_, 4.0 * spacing_hz_);
  if (bend >= 0.0 || b < a || b < c || span > 4.0 * rbw) return peak;
  const double offset = std::clamp(0.5 * (a - c) / bend, -0.5, 0.5);
  peak.frequency_hz += offset * span / 2.0;
  peak.level_dbm = b - 0.25 * (a - c) * offset;
  return peak;
}

std::vector<double> TraceReader::beside(double hz, int side, std::span<const double> lines) const {
  const double clear = 3.0 * rbw_hz_ + 1.5 * spacing_hz_;
  const auto is_taken = [&](double f) {
    return std::abs(f - hz) < clear ||
           std::any_of(
               lines.begin(), lines.end(), [&](double line) { return std::abs(f - line) < clear; });
  };
  std::vector<double> levels;
  auto i = static_cast<std::ptrdiff_t>(index_of(hz + side * clear));
  const auto last = static_cast<std::ptrdiff_t>(t_.frequency_hz.size()) - 1;
  for (std::ptrdiff_t n = 0; n < kFarthest && i >= 0 && i <= last && levels.size() < kSide;
       ++n, i += side) {
    const auto at = static_cast<std::size_t>(i);
    const bool is_on_side = side * (t_.frequency_hz[at] - hz) > 0.0;
    if (is_on_side && !is_taken(t_.frequency_hz[at])) levels.push_back(t_.level_dbm[at]);
  }
  return levels;
}

double TraceReader::floor_dbm(double hz, std::span<const double> lines) const {
  // Medians of a dozen points of one sweep scatter by some 2 dB each.
  const double step = 6.0 / std::sqrt(sweeps_) + 0.5;
  std::vector<double> below = beside(hz, -1, lines);
  std::vector<double> above = beside(hz, 1, lines);
  const auto side_level = [&](std::vector<double>& side) {
    std::vector<double> near(
        side.begin(), side.begin() + static_cast<std::ptrdiff_t>(std::min(kBeside, side.size())));
    std::vector<double> all = side;
    const double of_all = quantile(all, 0.5);
    const double of_near = quantile(near, 0.5);
    // A hump that begins some points away is not what stands here.
    if (of_near >= of_all - step) return of_all;
    side.resize(near.size());
    return of_near;
  };
  const bool is_below = below.size() >= kFewestBeside;
  const bool is_above = above.size() >= kFewestBeside;
  if (is_below && is_above) {
    const double low = side_level(below);
    const double high = side_level(above);
    if (std::abs(low - high) > step) return std::max(low, high) + mean_over_median_db();
  }
  if (!is_below && !is_above && below.size() + above.size() < kFewestBeside) return -400.0;
  below.insert(below.end(), above.begin(), above.end());
  return quantile(below, 0.5) + mean_over_median_db();
}

double TraceReader::estimated_sweeps() const {
  constexpr std::ptrdiff_t kReach = 20;
  constexpr std::size_t kEnough = 60;
  constexpr double kMost = 1000.0;
  const double stated = static_cast<double>(std::max(1, t_.averages.value_or(1)));
  const auto n = static_cast<std::ptrdiff_t>(t_.level_dbm.size());
  if (t_.level_dbm.size() < kEnough) return std::min(stated, kMost);
  std::vector<double> scatter;
  std::vector<double> round;
  for (std::ptrdiff_t i = 0; i < n; ++i) {
    const std::ptrdiff_t from = std::clamp<std::ptrdiff_t>(i - kReach, 0, n - 2 * kReach - 1);
    round.assign(t_.level_dbm.begin() + from, t_.level_dbm.begin() + from + 2 * kReach + 1);
    scatter.push_back(t_.level_dbm[static_cast<std::size_t>(i)] - quantile(round, 0.5));
  }
  // The lower half: lines lift only the upper one.
  const double middle = quantile(scatter, 0.5);
  const double spread = middle - quantile(scatter, 0.16);
  const auto spread_of = [](double sweeps) {
    return db_from_power_ratio(noise_quantile(sweeps, 0.5) / noise_quantile(sweeps, 0.16));
  };
  double low = 0.7;
  double high = kMost;
  for (int k = 0; k < 50; ++k) {
    const double mid = std::sqrt(low * high);
    (spread_of(mid) > spread ? low : high) = mid;
  }
  return std::max(1.0, high);
}

double TraceReader::mean_over_median_db() const {
  constexpr double kLogAverageDb = 2.507;
  constexpr double kFewSweeps = 4.0;
  const double of_power = -db_from_power_ratio(noise_quantile(sweeps_, 0.5));
  switch (t_.detector) {
    case TraceDetector::log_average:
      return kLogAverageDb;
    case TraceDetector::peak:
      return 0.0;
    case TraceDetector::sample:
    case TraceDetector::power_average:
      return of_power;
    case TraceDetector::unknown:
      break;
  }
  // Smooth, and nothing says whether power or decibels were averaged: the higher floor.
  return sweeps_ < kFewSweeps ? of_power : kLogAverageDb;
}

double TraceReader::chances(double within_hz) const {
  return 1.0 + 2.0 * within_hz / std::max(rbw_hz_ / 2.0, spacing_hz_);
}

double TraceReader::line_threshold_db() const {
  constexpr double kFalseTraces = 1e-3;
  const double span = t_.frequency_hz.back() - t_.frequency_hz.front();
  const double tail = noise_quantile(sweeps_, 1.0 - kFalseTraces / chances(span / 2.0));
  // The floor beside it is known to a dB or two itself.
  return std::max(10.0, db_from_power_ratio(tail) + 3.0 / std::sqrt(sweeps_));
}

double TraceReader::skirt_dbm(double hz, std::span<const TracePeak> lines) const {
  double highest = -400.0;
  for (const TracePeak& line : lines) {
    const double response = gaussian_skirt_db(hz - line.frequency_hz, rbw_hz_);
    if (response > kSkirtEndDb) highest = std::max(highest, line.level_dbm + response);
  }
  return highest;
}

std::vector<TracePeak> TraceReader::lines(std::size_t most) const {
  constexpr double kOverSkirtDb = 3.0;
  const double threshold = line_threshold_db();
  std::vector<std::size_t> order;
  for (std::size_t i = 1; i + 1 < t_.level_dbm.size(); ++i) {
    if (t_.level_dbm[i] >= t_.level_dbm[i - 1] && t_.level_dbm[i] >= t_.level_dbm[i + 1])
      order.push_back(i);
  }
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return t_.level_dbm[a] > t_.level_dbm[b]; });
  std::vector<TracePeak> found;
  std::vector<double> known;
  // Strong ones first; once they are known their neighbours' floors are seen without them.
  for (int pass = 0; pass < 2; ++pass) {
    for (const std::size_t i : order) {
      if (found.size() == most) break;
      const TracePeak peak = refined(i);
      if (peak.level_dbm < skirt_dbm(peak.frequency_hz, found) + kOverSkirtDb) continue;
      if (peak.level_dbm > floor_dbm(peak.frequency_hz, known) + threshold) {
        found.push_back(peak);
        if (pass > 0) known.push_back(peak.frequency_hz);
      }
    }
    known = frequencies(found);
  }
  std::stable_sort(found.begin(), found.end(), [](const TracePeak& a, const TracePeak& b) {
    return a.level_dbm > b.level_dbm;
  });
  return found;
}

TraceLine TraceReader::measure(double hz, double within_hz, std::span<const TracePeak> known,
                               double reading_u_db) const {
  constexpr double kFalseLines = 0.01;
  const TracePeak peak = peak_near(hz, within_hz);
  std::vector<TracePeak> others;
  for (const TracePeak& line : known) {
    if (std::abs(line.frequency_hz - peak.frequency_hz) > 0.5 * rbw_hz_) others.push_back(line);
  }
  TraceLine line;
  line.frequency_hz = peak.frequency_hz;
  const double noise = floor_dbm(peak.frequency_hz, frequencies(others));
  const double skirt = skirt_dbm(peak.frequency_hz, others);
  line.floor_dbm = std::max(noise, skirt);
  // The floor beside it is known to a dB or so itself.
  const double least = std::max(
      3.0, db_from_power_ratio(noise_quantile(sweeps_, 1.0 - kFalseLines / chances(within_hz))) +
               1.0 / std::sqrt(sweeps_));
  const double noise_share = power_ratio_from_db(noise - peak.level_dbm);
  line.is_bound = peak.level_dbm < std::max(noise + least, skirt + 3.0);
  if (line.is_bound) {
    // In amplitudes: what is seen, and as much again as noise may have taken from it.
    const double taken = kOneIn20 * std::sqrt(noise_share / (2.0 * sweeps_));
    line.level_dbm = peak.level_dbm + 2.0 * db_from_power_ratio(1.0 + taken) + hidden_db();
    return line;
  }
  line.level_dbm = peak.level_dbm + db_from_power_ratio(1.0 - std::min(0.5, noise_share));
  const double beat = std::pow(10.0, (skirt - peak.level_dbm) / 20.0);
  line.u_db = std::hypot(kDbPerRelativePower * std::sqrt(2.0 * noise_share / sweeps_),
                         2.0 * kDbPerRelativePower * beat / std::sqrt(2.0),
                         std::hypot(reading_u_db, u_missed_db()));
  return line;
}

std::vector<TraceHump> TraceReader::humps(std::span<const TracePeak> known) const {
  constexpr double kStandsOutDb = 6.0;
  constexpr double kWidthsAtLeast = 6.0;
  const std::vector<double> lines_hz = frequencies(known);
  const std::size_t n = t_.frequency_hz.size();
  const std::size_t cell = std::max<std::size_t>(kSide / 2, n / 200);
  std::vector<double> at;
  std::vector<double> floor;
  for (std::size_t i = cell / 2; i < n; i += cell) {
    const double level = floor_dbm(t_.frequency_hz[i], lines_hz);
    if (level <= -399.0) continue;
    at.push_back(t_.frequency_hz[i]);
    floor.push_back(level);
  }
  // The highest of many scattered floors would be too high.
  const std::vector<double> raw = floor;
  for (std::size_t i = 1; i + 1 < raw.size(); ++i) {
    std::vector<double> three{raw[i - 1], raw[i], raw[i + 1]};
    floor[i] = quantile(three, 0.5);
  }
  std::vector<TraceHump> found;
  if (floor.size() < 8) return found;
  // The floor without humps: the lower quarter of a wide neighbourhood.
  const auto reach = static_cast<std::ptrdiff_t>(std::max<std::size_t>(4, floor.size() / 4));
  const auto count = static_cast<std::ptrdiff_t>(floor.size());
  const auto base_at = [&](std::ptrdiff_t i) {
    std::vector<double> near(floor.begin() + std::max<std::ptrdiff_t>(0, i - reach),
                             floor.begin() + std::min(count, i + reach + 1));
    return quantile(near, 0.25);
  };
  TraceHump hump;
  const auto end = [&] {
    if (hump.to_hz - hump.from_hz >= kWidthsAtLeast * rbw_hz_) found.push_back(hump);
    hump = {};
  };
  for (std::ptrdiff_t i = 0; i < count; ++i) {
    const auto k = static_cast<std::size_t>(i);
    if (floor[k] < base_at(i) + kStandsOutDb) {
      end();
      continue;
    }
    if (hump.from_hz == 0.0) hump = {at[k], at[k], at[k], -400.0, 0.0};
    hump.to_hz = at[k];
    if (floor[k] > hump.level_dbm) {
      hump.level_dbm = floor[k];
      hump.frequency_hz = at[k];
    }
  }
  end();
  for (TraceHump& h : found)
    h.u_db = 1.25 * kDbPerRelativePower / std::sqrt(2.0 * static_cast<double>(kSide) * sweeps_);
  return found;
}

double TraceReader::hidden_db() const {
  // At worst the peak lies midway between two points; a peak detector does not miss it.
  if (t_.detector == TraceDetector::peak || spacing_hz_ <= rbw_hz_ / 2.0) return 0.0;
  return -gaussian_skirt_db(spacing_hz_ / 2.0, rbw_hz_);
}

double TraceReader::flat_top_hz() const {
  constexpr double kSameDb = 0.05;
  const auto& level = t_.level_dbm;
  const auto top =
      static_cast<std::size_t>(std::max_element(level.begin(), level.end()) - level.begin());
  const auto stretch = [&](double below_db) {
    std::size_t from = top;
    std::size_t to = top;
    while (from > 0 && level[from - 1] >= level[top] - below_db) --from;
    while (to + 1 < level.size() && level[to + 1] >= level[top] - below_db) ++to;
    return std::pair(to - from + 1, t_.frequency_hz[to] - t_.frequency_hz[from]);
  };
  const auto [points, flat_hz] = stretch(kSameDb);
  // Noise is never so even, and of points far apart three in a line may be alike.
  if (points < 4) return 0.0;
  // A Gaussian response holds 0.05 dB over an eighth of its width, a flat-top filter a third.
  const double width = t_.rbw_hz ? rbw_hz_ : stretch(3.0).second;
  return flat_hz > 0.5 * width ? flat_hz : 0.0;
}

double TraceReader::u_missed_db() const {
  return hidden_db() / std::sqrt(12.0);
}

double TraceReader::width_at(const TracePeak& peak) const {
  const std::size_t middle = index_of(peak.frequency_hz);
  const double level = peak.level_dbm - kFilterDb;
  const auto cross = [&](int step) {
    auto i = static_cast<std::ptrdiff_t>(middle);
    while (i + step >= 0 && i + step < static_cast<std::ptrdiff_t>(t_.level_dbm.size())) {
      const auto here = static_cast<std::size_t>(i);
      const auto next = static_cast<std::size_t>(i + step);
      if (t_.level_dbm[next] <= level && t_.level_dbm[here] > level) {
        const double part =
            (t_.level_dbm[here] - level) / (t_.level_dbm[here] - t_.level_dbm[next]);
        return std::abs(t_.frequency_hz[here] +
                        part * (t_.frequency_hz[next] - t_.frequency_hz[here]) - peak.frequency_hz);
      }
      i += step;
    }
    return spacing_hz_;
  };
  return cross(1) + cross(-1);
}

}  // namespace heron
