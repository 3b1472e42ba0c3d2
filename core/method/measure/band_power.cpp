#include "core/method/measure/band_power.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

#include "core/quantity/figure.h"

namespace heron {
namespace {

/// Of what is read when each of several parts is left out in turn.
double u_of_left_out(const std::vector<double>& values) {
  const auto count = static_cast<double>(values.size());
  double mean = 0.0;
  for (const double v : values) mean += v / count;
  double squares = 0.0;
  double fourth = 0.0;
  for (const double v : values) {
    squares += std::pow(v - mean, 2);
    fourth += std::pow(v - mean, 4);
  }
  if (squares <= 0.0) return 0.0;
  // Where rare peaks make most of it, few parts count: degrees of freedom from their kurtosis.
  const double kurtosis = count * fourth / (squares * squares);
  const double freedom = std::clamp(2.0 * count / std::max(kurtosis - 1.0, 1e-9), 1.0, count - 1.0);
  return std::sqrt((count - 1.0) / count * squares) * coverage_factor(freedom) / 2.0;
}

}  // namespace

double band_power(const Spectrum& s, TraceView power, double from_hz, double to_hz) {
  // A bin covers half a bin on either side of its frequency.
  const auto bins = static_cast<double>(power.size());
  const double from = std::clamp(s.position(from_hz) + 0.5, 0.0, bins);
  const double to = std::clamp(s.position(to_hz) + 0.5, 0.0, bins);
  if (to <= from) return 0.0;
  const auto first = static_cast<std::size_t>(from);
  const auto last = std::min(static_cast<std::size_t>(to), power.size() - 1);
  double sum = 0.0;
  for (std::size_t k = first; k <= last; ++k) {
    const double low = std::max(from, static_cast<double>(k));
    const double high = std::min(to, static_cast<double>(k) + 1.0);
    sum += std::max(0.0, high - low) * static_cast<double>(power[k]);
  }
  return sum;
}

double quiet_floor(const Spectrum& s, TraceView power) {
  const auto bins = power.size();
  // The filters of a recorder fall off towards the ends: what is there is no floor.
  const std::size_t end = bins / 25;
  const std::size_t block = std::clamp<std::size_t>(bins / 128, 8, 512);
  std::vector<double> medians;
  std::vector<float> part;
  const auto middle_of = [](auto& values, double fraction) {
    const auto at = values.begin() +
                    static_cast<std::ptrdiff_t>(fraction * static_cast<double>(values.size() - 1));
    std::nth_element(values.begin(), at, values.end());
    return *at;
  };
  for (std::size_t at = end; at + block <= bins - end; at += block) {
    part.assign(power.begin() + static_cast<std::ptrdiff_t>(at),
                power.begin() + static_cast<std::ptrdiff_t>(at + block));
    medians.push_back(middle_of(part, 0.5));
  }
  if (medians.empty()) return 0.0;
  // The middle of the blocks that are about as quiet: their quietest alone would be too low.
  const double quiet = middle_of(medians, 0.1);
  std::erase_if(medians, [&](double m) { return m > 1.4 * quiet; });
  if (medians.empty()) return 0.0;
  return middle_of(medians, 0.5) / median_over_mean(s.statistics.k_eff);
}

const std::vector<float>& whole_trace(const Spectrum& s, Hold hold) {
  return hold == Hold::average ? s.power : s.max_hold;
}

/// By how much leaving out one of `n` alike parts understates u where they overlap: what two of
/// them share on average is seen from what all are worth together.
double overlap_factor(const Spectrum& s, double n) {
  const double together = n * s.slice_k_eff / s.statistics.k_eff;  // 1 + (n - 1) of what they share
  const double shared = std::clamp((together - 1.0) / (n - 1.0), 0.0, 0.5);
  return std::sqrt(std::max(together, 1.0) / (1.0 - shared));
}

std::vector<double> jackknife_u(const Spectrum& s, Hold hold,
                                const std::function<std::vector<double>(TraceView)>& figures) {
  const auto& parts = hold == Hold::average ? s.slices : s.max_hold_slices;
  const std::size_t n = parts.size();
  if (n < 3)
    return std::vector<double>(figures(whole_trace(s, hold)).size(),
                               std::numeric_limits<double>::infinity());
  std::vector<std::vector<double>> left_out;
  std::vector<float> rest(s.power.size());
  for (std::size_t j = 0; j < n; ++j) {
    std::fill(rest.begin(), rest.end(), 0.0F);
    for (std::size_t i = 0; i < n; ++i) {
      if (i == j) continue;
      for (std::size_t k = 0; k < rest.size(); ++k)
        rest[k] = hold == Hold::average ? rest[k] + parts[i][k] : std::max(rest[k], parts[i][k]);
    }
    if (hold == Hold::average) {
      for (float& v : rest) v /= static_cast<float>(n - 1);
    }
    left_out.push_back(figures(rest));
  }
  const double overlap = overlap_factor(s, static_cast<double>(n));
  std::vector<double> u;
  for (std::size_t f = 0; f < left_out.front().size(); ++f) {
    std::vector<double> values;
    for (const auto& figure : left_out) values.push_back(figure[f]);
    u.push_back(overlap * u_of_left_out(values));
  }
  return u;
}

Spectrum spectrum_for_width(const CaptureOpener& open, double width_hz, double bins_in,
                            unsigned threads, const Progress& progress,
                            const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  const double wanted = info.sample_rate_hz * bins_in / width_hz;
  std::size_t segment = std::bit_ceil(
      static_cast<std::size_t>(std::clamp(wanted, 256.0, static_cast<double>(1U << 20U))));
  // Sixteen averages at a hop of a quarter.
  while (segment > 256 && static_cast<double>(segment) * 4.75 > static_cast<double>(info.frames))
    segment /= 2;
  WelchSettings welch;
  welch.segment = segment;
  welch.threads = threads;
  welch.max_hold = true;
  return welch_spectrum(open, welch, progress, stop);
}

}  // namespace heron
