#include "core/signal/trace_reader.h"

#include <algorithm>
#include <cmath>

namespace heron {
namespace {

double quantile(std::vector<double>& values, double fraction) {
  const auto at =
      values.begin() + static_cast<std::ptrdiff_t>(fraction * static_cast<double>(values.size()));
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

}  // namespace

double gaussian_skirt_db(double distance_hz, double rbw_hz) {
  const double x = 2.0 * distance_hz / rbw_hz;
  return std::max(-3.0103 * x * x, -90.0);
}

TraceReader::TraceReader(const SpectrumTrace& trace)
    : t_(trace), spacing_hz_(trace.spacing_hz()), rbw_hz_(trace.rbw_hz.value_or(spacing_hz_)) {
  if (t_.rbw_hz) return;
  const std::vector<TracePeak> peaks = strongest(1);
  if (peaks.empty()) return;
  rbw_hz_ = std::max(spacing_hz_, width_at(peaks[0]));
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

std::vector<TracePeak> TraceReader::strongest(std::size_t most) const {
  std::vector<std::size_t> order;
  for (std::size_t i = 1; i + 1 < t_.level_dbm.size(); ++i) {
    if (t_.level_dbm[i] >= t_.level_dbm[i - 1] && t_.level_dbm[i] >= t_.level_dbm[i + 1])
      order.push_back(i);
  }
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return t_.level_dbm[a] > t_.level_dbm[b]; });
  std::vector<TracePeak> peaks;
  for (const std::size_t i : order) {
    if (peaks.size() == most) break;
    const TracePeak peak = refined(i);
    const bool is_apart = std::all_of(peaks.begin(), peaks.end(), [&](const TracePeak& p) {
      return std::abs(p.frequency_hz - peak.frequency_hz) > 3.0 * std::max(rbw_hz_, spacing_hz_);
    });
    if (is_apart) peaks.push_back(peak);
  }
  return peaks;
}

std::vector<double> TraceReader::levels_round(double hz, double reach_hz,
                                              std::span<const double> lines) const {
  std::vector<double> levels;
  for (std::size_t i = index_of(hz - reach_hz); i < t_.frequency_hz.size(); ++i) {
    const double f = t_.frequency_hz[i];
    if (f < hz - reach_hz) continue;
    if (f > hz + reach_hz) break;
    const bool is_line = std::any_of(lines.begin(), lines.end(), [&](double line) {
      return std::abs(f - line) < 3.0 * rbw_hz_ + 1.5 * spacing_hz_;
    });
    if (!is_line) levels.push_back(t_.level_dbm[i]);
  }
  return levels;
}

double TraceReader::floor_dbm(double hz, std::span<const double> lines) const {
  std::vector<double> levels =
      levels_round(hz, std::max(40.0 * spacing_hz_, 12.0 * rbw_hz_), lines);
  if (levels.size() < 5) return -400.0;
  return quantile(levels, 0.5);
}

double TraceReader::line_threshold_db(double hz) const {
  const std::vector<double> itself{hz};
  std::vector<double> levels =
      levels_round(hz, std::max(400.0 * spacing_hz_, 100.0 * rbw_hz_), itself);
  if (levels.size() < 20) return 10.0;
  // Exponential power, as one sweep shows noise: 84 % stand below 4.2 dB over the median, all but
  // 1e-7 below 13.7 dB.
  const double middle = quantile(levels, 0.5);
  return std::max(10.0, 13.7 / 4.2 * (quantile(levels, 0.84) - middle));
}

double TraceReader::u_missed_db() const {
  // At worst the peak lies midway between two points.
  return spacing_hz_ > rbw_hz_ / 2.0
             ? -gaussian_skirt_db(spacing_hz_ / 2.0, rbw_hz_) / std::sqrt(12.0)
             : 0.0;
}

double TraceReader::width_at(const TracePeak& peak) const {
  const std::size_t middle = index_of(peak.frequency_hz);
  const double level = peak.level_dbm - 3.0103;
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
