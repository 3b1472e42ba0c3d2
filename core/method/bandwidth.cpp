#include "core/method/bandwidth.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>

#include "core/error.h"
#include "core/method/line_power.h"
#include "core/method/plot_curve.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

FrequencyRange whole_range(const Spectrum& s, const BandwidthSettings& settings) {
  const double half_bin = s.bin_hz() / 2.0;
  const FrequencyRange all{s.frequency_hz(0) - half_bin,
                           s.frequency_hz(s.power.size() - 1) + half_bin};
  if (!settings.search_hz) return all;
  return {std::max(all.first, settings.search_hz->first),
          std::min(all.second, settings.search_hz->second)};
}

/// Signal power of a range: what stands in it less the floor.
double signal_in(const Spectrum& s, TraceView trace, double floor, FrequencyRange range) {
  return band_power(s, trace, range.first, range.second) -
         floor * (range.second - range.first) / s.bin_hz();
}

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

/// The occupied bandwidth, searched in a region no wider than three times itself, so that the
/// floor's scatter elsewhere does not count.
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

struct Regions {
  FrequencyRange search;
  FrequencyRange near;  ///< the occupied bandwidth and as much again on each side
};

void measure_adjacent(BandwidthAnalysis& a, const Spectrum& s, double floor,
                      const BandwidthSettings& settings) {
  const TraceView trace = whole_trace(s, settings.hold);
  const double middle = (a.occupied->lower_hz + a.occupied->upper_hz) / 2.0;
  a.channel_hz = settings.channel_hz.value_or(a.occupied->width_hz());
  const double width = settings.adjacent_hz.value_or(a.channel_hz);
  std::vector<double> offsets = settings.offsets_hz;
  if (offsets.empty()) offsets = {a.channel_hz, 2.0 * a.channel_hz};
  if (std::none_of(offsets.begin(), offsets.end(), [](double o) { return o < 0.0; })) {
    const auto upper = offsets;
    for (const double o : upper) offsets.push_back(-o);
  }
  std::sort(offsets.begin(), offsets.end());
  const FrequencyRange channel{middle - a.channel_hz / 2.0, middle + a.channel_hz / 2.0};
  const FrequencyRange all = whole_range(s, {});
  for (const double offset : offsets) {
    const FrequencyRange window{middle + offset - width / 2.0, middle + offset + width / 2.0};
    if (window.first < all.first || window.second > all.second) {
      if (settings.offsets_hz.empty()) continue;
      a.remarks.push_back(
          {"window_outside", Severity::caution,
           fmt::format("The window at {} Hz reaches beyond the recording: its power "
                       "is not known.",
                       number_text(offset, 0, true)),
           "Record with a higher rate"});
      continue;
    }
    const auto ratio = [&](TraceView t) {
      return signal_in(s, t, floor, window) / signal_in(s, t, floor, channel);
    };
    AdjacentPower out{offset, width, 0.0, 0.0, false};
    const double bins = width / s.bin_hz();
    const double noise = floor * bins;
    const double value = ratio(trace);
    const double wanted = signal_in(s, trace, floor, channel);
    const double u = std::max(jackknife_u(s, settings.hold, ratio),
                              noise / wanted * std::sqrt(2.0 / (bins * s.statistics.k_eff)));
    out.is_bound = value * wanted < noise || value < 2.0 * u;
    const double shown = out.is_bound ? std::max(value, 0.0) + kOneSided95 * u : value;
    out.ratio_db = db_from_power_ratio(std::max(shown, 1e-30));
    out.u_db = out.is_bound ? 0.0 : kDbPerRelativePower * u / value;
    a.adjacent.push_back(out);
  }
}

void add_remarks(BandwidthAnalysis& a, const Spectrum& s, double floor, const Regions& regions) {
  const TraceView trace = whole_trace(s, a.hold);
  if (a.clipped_samples > 0)
    a.remarks.push_back({"clipping", Severity::fault,
                         fmt::format("{} samples are clipped: the widths are those of the clipped "
                                     "signal.",
                                     a.clipped_samples),
                         "Add attenuation and record again"});
  for (const std::string& text : a.capture.cautions)
    a.remarks.push_back({"recording", Severity::caution, text + ".", ""});
  if (a.occupied->width_hz() < 20.0 * a.rbw_hz)
    a.remarks.push_back(
        {"resolution", Severity::caution,
         fmt::format("The resolution of {} is {:.0f} % of the width: the edges are blurred by it.",
                     engineering_text(a.rbw_hz, "Hz", 2),
                     100.0 * a.rbw_hz / a.occupied->width_hz()),
         "Record for longer"});
  if (a.floor_share > 0.1)
    a.remarks.push_back(
        {"floor", Severity::caution,
         fmt::format(
             "Noise of {:.0f} % of the signal\u2019s power was taken off: the edges rest on "
             "that.",
             100.0 * a.floor_share),
         "Bring the level nearer to full scale"});
  const double inside = signal_in(s, trace, floor, regions.near);
  const double outside = signal_in(s, trace, floor, regions.search) - inside;
  if (outside > 0.01 * inside && outside > 0.05 * floor * static_cast<double>(trace.size()))
    a.remarks.push_back(
        {"other_signal", Severity::caution,
         fmt::format("{:.0f} % of the power lies elsewhere in the recording and was "
                     "left out.",
                     100.0 * outside / (inside + outside)),
         ""});
  if (a.hold == Hold::max)
    a.remarks.push_back(
        {"max_hold", Severity::note,
         fmt::format("Max-hold keeps the highest of {} spectra in {:.1f} s: it grows "
                     "with time, compare equal times only.",
                     a.averages, a.capture.duration_s()),
         ""});
}

void check(const BandwidthSettings& s, const CaptureInfo& info) {
  const auto refuse = [&](const char* where, const std::string& why, const char* todo) {
    throw InputError(info.name, where, why, todo);
  };
  if (!(s.fraction > 0.5 && s.fraction < 1.0))
    refuse("fraction", fmt::format("{:g} is not between 0.5 and 1", s.fraction), "Use 0.99");
  for (const auto& width : {s.channel_hz, s.adjacent_hz}) {
    if (width && !(*width > 0.0 && *width < info.sample_rate_hz))
      refuse("channel", fmt::format("{:g} Hz does not fit into the recording", *width),
             "Use less than its sample rate");
  }
  if (s.search_hz && !(s.search_hz->first < s.search_hz->second))
    refuse("range", "it does not run from low to high", "Name the lower frequency first");
}

}  // namespace

BandwidthAnalysis analyse_bandwidth(const CaptureOpener& open, const BandwidthSettings& settings,
                                    const Progress& progress, const std::stop_token& stop) {
  BandwidthAnalysis a;
  a.capture = open()->info();
  a.input = a.capture.name;
  a.hold = settings.hold;
  a.fraction = settings.fraction;
  check(settings, a.capture);

  const double span = a.capture.sample_rate_hz * (a.capture.is_complex ? 1.0 : 0.5);
  Spectrum s = spectrum_for_width(open, span, 2048.0, settings.threads, progress, stop);
  const auto find = [&](TraceView trace) {
    return occupied_in(s, trace, quiet_floor(s, trace), settings.fraction,
                       whole_range(s, settings));
  };
  FrequencyRange range = find(whole_trace(s, settings.hold));
  // The edges hold half a per cent each: the resolution has to be finer than that.
  constexpr double kBinsAcross = 1000.0;
  if ((range.second - range.first) / s.bin_hz() < kBinsAcross) {
    Spectrum finer = spectrum_for_width(open, std::max(range.second - range.first, 20.0),
                                        kBinsAcross, settings.threads, progress, stop);
    if (finer.segment > s.segment) {
      s = std::move(finer);
      range = find(whole_trace(s, settings.hold));
    }
  }
  const TraceView trace = whole_trace(s, settings.hold);
  const double floor = quiet_floor(s, trace);
  a.rbw_hz = s.rbw_hz();
  a.averages = s.averages;
  a.clipped_samples = s.clipped_samples;
  a.average = spectrum_curve(s, s.power, settings.plot_points);
  a.max_hold = spectrum_curve(s, s.max_hold, settings.plot_points);
  a.max_hold.label = "Max-hold";

  const FrequencyRange search = whole_range(s, settings);
  const double width = range.second - range.first;
  const Regions regions{
      search,
      {std::max(search.first, range.first - width), std::min(search.second, range.second + width)}};
  const double signal = signal_in(s, trace, floor, range);
  const double noise = floor * width / s.bin_hz();
  const bool stands_out =
      signal > 0.0 && width > 0.0 &&
      signal + noise >
          2.0 * noise *
              (1.0 + 3.0 / std::sqrt(s.statistics.k_eff * std::max(width / s.rbw_hz(), 1.0)));
  if (!stands_out) {
    a.remarks.push_back({"nothing_found", Severity::fault,
                         "Nothing stands 3 dB above what looks like the floor: the recording is "
                         "noise, or the signal fills all of it.",
                         "Check the level, or record with a higher rate"});
    return a;
  }
  const auto edge_u = [&](const std::function<double(TraceView)>& figure) {
    // Where in its bin an edge lies is not known better than this.
    return std::hypot(jackknife_u(s, settings.hold, figure), s.bin_hz() / std::sqrt(12.0));
  };
  a.occupied = WidthAtLevel{range.first, range.second, edge_u([&](TraceView t) {
                              const FrequencyRange r = find(t);
                              return r.second - r.first;
                            })};
  a.power_dbfs = db_from_power_ratio(signal);
  a.floor_share = floor * (regions.near.second - regions.near.first) / s.bin_hz() /
                  std::max(signal_in(s, trace, floor, regions.near), 1e-30);
  const auto half = static_cast<std::size_t>(std::max(1.0, 0.01 * width / s.bin_hz()));
  const auto at_26 = [&](TraceView t) {
    return width_at_26(s, t, quiet_floor(s, t), regions.near, half);
  };
  if (const auto found = at_26(trace)) {
    a.x26 = WidthAtLevel{found->first, found->second, edge_u([&](TraceView t) {
                           const auto r = at_26(t).value_or(*found);
                           return r.second - r.first;
                         })};
  } else {
    a.remarks.push_back(
        {"floor_26", Severity::caution,
         "The floor is less than 29 dB below the highest point: the \u221226 dB width "
         "cannot be told.",
         "Bring the level nearer to full scale"});
  }
  measure_adjacent(a, s, floor, settings);
  add_remarks(a, s, floor, regions);
  sort_remarks(a.remarks);
  return a;
}

Result to_result(const BandwidthAnalysis& a) {
  Result r;
  r.method = "bandwidth";
  r.inputs = {a.input};
  r.headline_id = "occupied_bandwidth";
  r.remarks = a.remarks;
  r.curves = {a.average, a.max_hold};
  const auto width = [&](const char* id, const std::string& label, const WidthAtLevel& w) {
    Figure f{id, label, w.width_hz(), "Hz", hold_name(a.hold), {}, Bound::none};
    f.contributions.push_back(
        {"scatter between parts of the recording", w.u_hz, Scope::independent});
    r.figures.push_back(f);
  };
  if (a.occupied)
    width("occupied_bandwidth", fmt::format("{:g} % bandwidth", 100.0 * a.fraction), *a.occupied);
  if (a.x26) width("x26", "\u221226 dB bandwidth", *a.x26);
  for (const AdjacentPower& p : a.adjacent) {
    Figure f{fmt::format("acpr_{:+.0f}", p.offset_hz),
             fmt::format("Power at {} Hz", number_text(p.offset_hz, 0, true)),
             p.ratio_db,
             "dB",
             "re channel, " + hold_name(a.hold),
             {},
             p.is_bound ? Bound::upper : Bound::none};
    if (!p.is_bound)
      f.contributions.push_back(
          {"scatter between parts of the recording", p.u_db, Scope::independent});
    r.figures.push_back(f);
  }
  return r;
}

std::string hold_name(Hold hold) {
  return hold == Hold::average ? "average" : "max-hold";
}

}  // namespace heron
