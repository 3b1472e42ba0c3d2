#include "core/method/measure/wandering_line.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>
#include <vector>

#include "core/method/measure/band_power.h"

namespace heron {
namespace {

constexpr std::ptrdiff_t kReachBins = 24;     // between neighbouring parts
constexpr std::ptrdiff_t kWidestBins = 1024;  // to each side

std::ptrdiff_t highest_near(const std::vector<float>& trace, std::ptrdiff_t middle,
                            std::ptrdiff_t reach) {
  const auto last = static_cast<std::ptrdiff_t>(trace.size()) - 1;
  const auto from = trace.begin() + std::clamp<std::ptrdiff_t>(middle - reach, 0, last);
  const auto to = trace.begin() + std::clamp<std::ptrdiff_t>(middle + reach, 0, last) + 1;
  return std::max_element(from, to) - trace.begin();
}

/// First and last bin of what holds 99 % of the power about a place, less the floor.
std::pair<std::ptrdiff_t, std::ptrdiff_t> extent(const Spectrum& s, std::ptrdiff_t middle,
                                                 double floor) {
  const auto last = static_cast<std::ptrdiff_t>(s.power.size()) - 1;
  const std::ptrdiff_t from = std::max<std::ptrdiff_t>(0, middle - kWidestBins);
  const std::ptrdiff_t to = std::min(last, middle + kWidestBins);
  const auto over = [&](std::ptrdiff_t k) {
    return std::max(0.0, static_cast<double>(s.power[static_cast<std::size_t>(k)]) - 3.0 * floor);
  };
  double all = 0.0;
  for (std::ptrdiff_t k = from; k <= to; ++k) all += over(k);
  const auto inwards = [&](std::ptrdiff_t k, std::ptrdiff_t step) {
    double sum = over(k);
    while (sum < 0.005 * all) sum += over(k += step);
    return k;
  };
  return {inwards(from, 1), inwards(to, -1)};
}

/// Several lines have gaps between them; one that moves has none. Noise stands out of nothing.
bool is_one(const Spectrum& s, std::ptrdiff_t low, std::ptrdiff_t high, double floor) {
  constexpr std::ptrdiff_t kGap = 2 * std::ptrdiff_t{kLineHalfWidth} + 1;
  constexpr double kLeast = 0.02;
  constexpr double kStandsOut = 10.0;
  double all = 0.0;
  for (std::ptrdiff_t k = low; k <= high; ++k) all += s.power[static_cast<std::size_t>(k)];
  const double mean = all / static_cast<double>(high - low + 1);
  if (mean < kStandsOut * floor) return false;
  for (std::ptrdiff_t k = low; k + kGap <= high; ++k) {
    double sum = 0.0;
    for (std::ptrdiff_t i = k; i < k + kGap; ++i) sum += s.power[static_cast<std::size_t>(i)];
    if (sum < kLeast * mean * static_cast<double>(kGap)) return false;
  }
  return true;
}

/// From the first to the last part, where it goes one way; 0 where it goes to and fro.
double drift_bins(const Spectrum& s, std::ptrdiff_t middle) {
  const std::size_t n = s.slices.size();
  if (n < 4) return 0.0;
  // Outwards in both directions of time from the part where it stands as in the average.
  const auto bin = static_cast<std::size_t>(middle);
  std::size_t clearest = 0;
  for (std::size_t i = 0; i < n; ++i) {
    if (s.slices[i][bin] > s.slices[clearest][bin]) clearest = i;
  }
  std::vector<double> at(n);
  std::ptrdiff_t place = middle;
  for (std::size_t i = clearest; i < n; ++i)
    at[i] = static_cast<double>(place = highest_near(s.slices[i], place, kReachBins));
  place = middle;
  for (std::size_t i = clearest + 1; i-- > 0;)
    at[i] = static_cast<double>(place = highest_near(s.slices[i], place, kReachBins));
  const double mean_time = static_cast<double>(n - 1) / 2.0;
  const double mean = std::accumulate(at.begin(), at.end(), 0.0) / static_cast<double>(n);
  double tt = 0.0;
  double tx = 0.0;
  double xx = 0.0;
  for (std::size_t i = 0; i < n; ++i) {
    const double t = static_cast<double>(i) - mean_time;
    tt += t * t;
    tx += t * (at[i] - mean);
    xx += (at[i] - mean) * (at[i] - mean);
  }
  constexpr double kOneWay = 0.7;  // of the variance is a straight line
  return tx * tx > kOneWay * tt * xx ? tx / tt * static_cast<double>(n - 1) : 0.0;
}

}  // namespace

WanderingLine strongest_line(const Spectrum& s) {
  const auto middle = static_cast<std::ptrdiff_t>(std::max_element(s.power.begin(), s.power.end()) -
                                                  s.power.begin());
  WanderingLine line{s.frequency_hz(static_cast<std::size_t>(middle)), kLineHalfWidth, 0.0};
  const double floor = quiet_floor(s, s.power);
  const auto [low, high] = extent(s, middle, floor);
  constexpr std::ptrdiff_t kSteadyBins = 2 * std::ptrdiff_t{kLineHalfWidth};
  if (high - low <= kSteadyBins || !is_one(s, low, high, floor)) return line;
  line.half_width_bins = static_cast<int>((high - low) / 2 + kSteadyBins);
  line.frequency_hz = (s.frequency_hz(static_cast<std::size_t>(low)) +
                       s.frequency_hz(static_cast<std::size_t>(high))) /
                      2.0;
  line.drift_hz = drift_bins(s, middle) * s.bin_hz();
  return line;
}

std::vector<SpectralLine> lines_beside(const Spectrum& s, const std::vector<SpectralLine>& found,
                                       const WanderingLine& carrier) {
  if (carrier.is_steady()) return found;
  std::vector<SpectralLine> kept{
      {carrier.frequency_hz,
       measure_line(s, carrier.frequency_hz, carrier.half_width_bins, {}).power}};
  for (const SpectralLine& line : found) {
    const bool is_part = std::any_of(kept.begin(), kept.end(), [&](const SpectralLine& one) {
      return std::abs(one.frequency_hz - line.frequency_hz) < carrier.reach_hz(s.bin_hz());
    });
    if (!is_part) kept.push_back(line);
  }
  return kept;
}

int half_width_of(const SpectralLine& line, const std::vector<SpectralLine>& lines,
                  const WanderingLine& carrier, double bin_hz) {
  if (carrier.is_steady() || line.frequency_hz == carrier.frequency_hz)
    return carrier.half_width_bins;
  double room = 2.0 * carrier.half_width_bins;
  for (const SpectralLine& other : lines) {
    if (&other == &line) continue;
    const double apart = std::abs(other.frequency_hz - line.frequency_hz) / bin_hz;
    room = std::min(room, (apart - carrier.half_width_bins) / 2.0);
  }
  return std::max(kLineHalfWidth, static_cast<int>(room));
}

}  // namespace heron
