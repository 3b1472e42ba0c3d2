#include "core/method/spread/bandwidth_signal.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numeric>
#include <optional>
#include <vector>

#include "core/method/measure/line_power.h"
#include "core/method/measure/tone_finder.h"
#include "core/method/spread/spectrum_width.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/median.h"

namespace heron {
namespace {

/// What a trace shows beside a line.
float median_beside(const std::vector<float>& trace, std::ptrdiff_t centre) {
  constexpr std::ptrdiff_t kBins = 24;  // on each side, which the caller has seen to
  std::vector<float> beside;
  for (std::ptrdiff_t d = kLineHalfWidth + 1; d <= kLineHalfWidth + kBins; ++d) {
    beside.push_back(trace[static_cast<std::size_t>(centre - d)]);
    beside.push_back(trace[static_cast<std::size_t>(centre + d)]);
  }
  return median_of(beside);
}

struct Stretch {
  FrequencyRange range;
  double power = 0.0;
};

/// Stretches whose level stands out of the floor and within 26 dB of the highest, joined over gaps
/// of less than a share of the width, such as a notch.
std::vector<Stretch> stretches(const Spectrum& s, TraceView trace, double floor,
                               FrequencyRange range, double width_hz, double gap) {
  const auto cell = static_cast<std::size_t>(std::max(1.0, 0.01 * width_hz / s.bin_hz()));
  std::vector<std::pair<double, double>> cells;  // middle, level
  double highest = 0.0;
  for (std::size_t k = 0; k + cell <= trace.size(); k += cell) {
    const double f = s.frequency_hz(k + cell / 2);
    if (f < range.first || f > range.second) continue;
    double sum = 0.0;
    for (std::size_t i = k; i < k + cell; ++i) sum += static_cast<double>(trace[i]);
    cells.emplace_back(f, sum / static_cast<double>(cell));
    highest = std::max(highest, cells.back().second);
  }
  const double least = std::max(3.0 * floor, highest * power_ratio_from_db(-26.0));
  const double step = static_cast<double>(cell) * s.bin_hz();
  std::vector<Stretch> found;
  for (const auto& [f, level] : cells) {
    if (level < least) continue;
    if (found.empty() || f - found.back().range.second > gap * width_hz + 1.5 * step)
      found.push_back({{f - step / 2.0, f}, 0.0});
    found.back().range.second = f + step / 2.0;
  }
  for (Stretch& one : found) one.power = signal_in(s, trace, floor, one.range);
  return found;
}

double overlap(FrequencyRange a, FrequencyRange b) {
  return std::max(0.0, std::min(a.second, b.second) - std::max(a.first, b.first));
}

std::string place_text(FrequencyRange range) {
  return number_text(range.first, 0) + " to " + number_text(range.second, 0) + " Hz";
}

/// What stands at the mirror image of the strongest stretch is the recorder's own, unless it is as
/// strong: taken out of the list and named.
void name_image(BandwidthAnalysis& a, const Spectrum& s, TraceView trace, double floor,
                const std::vector<Stretch>& unjoined, std::vector<Stretch>& parts) {
  constexpr double kLeastShare = 0.002;
  constexpr double kMost = 0.1;
  if (!a.capture.is_complex || unjoined.empty()) return;
  const Stretch strongest =
      *std::max_element(unjoined.begin(), unjoined.end(),
                        [](const auto& x, const auto& y) { return x.power < y.power; });
  const FrequencyRange mirror{-strongest.range.second, -strongest.range.first};
  if (overlap(mirror, strongest.range) > 0.0) return;
  const double share = signal_in(s, trace, floor, mirror) / strongest.power;
  if (share < kLeastShare || share > kMost) return;
  std::erase_if(parts, [&](const Stretch& one) {
    return overlap(one.range, mirror) > 0.8 * (one.range.second - one.range.first);
  });
  a.remarks.push_back(
      {"image", Severity::caution,
       fmt::format("{} dB below the signal there is something at its mirror image, {}: the "
                   "recorder\u2019s, or another signal.",
                   number_text(-db_from_power_ratio(share), 0), place_text(mirror)),
       "Name the channel and its middle, so that only they count"});
}

/// A tone or a few instead of noise or speech: `power` is the signal's.
void name_lines(BandwidthAnalysis& a, const Spectrum& s, FrequencyRange range, double power) {
  double in_lines = 0.0;
  int lines = 0;
  for (const SpectralLine& line : find_lines(s, 8)) {
    if (line.frequency_hz < range.first || line.frequency_hz > range.second) continue;
    if (line.power < 0.01 * power) continue;
    in_lines += line.power;
    ++lines;
  }
  if (lines == 0 || in_lines < 0.8 * power) return;
  if (lines == 1)
    a.remarks.push_back(
        {"few_lines", Severity::caution,
         "One line holds nearly all of the power: a carrier, beside which what little is left "
         "decides the width.",
         "Play noise or speech for a width"});
  else
    a.remarks.push_back(
        {"few_lines", Severity::caution,
         fmt::format("{} lines hold nearly all of the power: a tone test, whose width is only "
                     "where its lines are.",
                     lines),
         "Play noise or speech for a width"});
}

/// Where a range that somebody named goes through the signal: the edge, Hz.
std::optional<double> cut_at(const Spectrum& s, TraceView trace, double floor, FrequencyRange range,
                             double width_hz) {
  const double near = 2.0 * std::max(s.rbw_hz(), 0.005 * width_hz);
  const auto stands_out = [&](double from, double to) {
    return band_power(s, trace, from, to) / (to - from) * s.bin_hz() > 4.0 * floor;
  };
  const double lowest = s.frequency_hz(0);
  const double highest = s.frequency_hz(s.power.size() - 1);
  if (range.first - near > lowest && stands_out(range.first, range.first + near) &&
      stands_out(range.first - near, range.first))
    return range.first;
  if (range.second + near < highest && stands_out(range.second - near, range.second) &&
      stands_out(range.second, range.second + near))
    return range.second;
  return std::nullopt;
}

/// The signal goes on: what was found of it is a lower bound.
void note_cut(BandwidthAnalysis& a) {
  a.occupied->is_cut = true;
  if (a.x26) a.x26->is_cut = true;
}

void name_filter(BandwidthAnalysis& a, FrequencyRange band) {
  const double rate = a.capture.sample_rate_hz;
  // A recorder's filter falls off in the last tenth of its band.
  const double usable = 0.45 * rate;
  const bool above = band.second > usable;
  if (above || (a.capture.is_complex && band.first < -usable)) {
    note_cut(a);
    a.remarks.push_back(
        {"band_edge", Severity::fault,
         fmt::format("The signal reaches {} Hz, where the recorder\u2019s filter falls off ({} "
                     "Hz): it may go on beyond, the widths are at least these.",
                     number_text(above ? band.second : band.first, 0),
                     number_text(above ? usable : -usable, 0)),
         "Record with a higher rate, or with the signal in the middle"});
    return;
  }
  // Many recorders filter more narrowly than that, evenly round their centre.
  const double width = band.second - band.first;
  if (a.capture.is_complex && width > 0.5 * rate &&
      std::abs(band.first + band.second) < 0.02 * width)
    a.remarks.push_back(
        {"even_band", Severity::caution,
         fmt::format("Both edges lie {} Hz from the recorder\u2019s centre: this cannot tell the "
                     "signal\u2019s edges from those of the recorder\u2019s filter.",
                     number_text(width / 2.0, 0)),
         "Record with a higher rate, or with the signal off the centre"});
}

}  // namespace

double take_spike_off(Spectrum& s) {
  constexpr double kSpikeStandsOut = 10.0;
  constexpr std::size_t kFewestBins = 256;
  if (!s.is_complex || s.power.size() < kFewestBins) return 0.0;
  const LinePower spike = measure_line(s, 0.0, kLineHalfWidth, {});
  if (spike.is_bound || spike.power < kSpikeStandsOut * spike.noise_rbw) return 0.0;
  const double all = std::accumulate(s.power.begin(), s.power.end(), 0.0);
  // A carrier that is most of the signal is the signal.
  if (spike.power > 0.5 * all) return 0.0;
  const auto centre = static_cast<std::ptrdiff_t>(std::lround(s.position(0.0)));
  const auto flatten = [&](std::vector<float>& trace) {
    if (trace.empty()) return;
    std::fill(trace.begin() + centre - kLineHalfWidth, trace.begin() + centre + kLineHalfWidth + 1,
              median_beside(trace, centre));
  };
  flatten(s.power);
  flatten(s.max_hold);
  for (auto& slice : s.slices) flatten(slice);
  for (auto& slice : s.max_hold_slices) flatten(slice);
  return spike.power / all;
}

void note_spike(std::vector<Remark>& remarks, double share) {
  constexpr double kLeastShare = 0.005;
  if (share < kLeastShare) return;
  remarks.push_back(
      {"centre_spike", Severity::note,
       fmt::format("A line on the recorder\u2019s own centre held {} % of the power and was taken "
                   "off: its offset, or a carrier.",
                   number_text(100.0 * share, share < 0.1 ? 1 : 0)),
       ""});
}

void add_signal_remarks(BandwidthAnalysis& a, const Spectrum& s, double floor, FrequencyRange range,
                        const BandwidthSettings& settings) {
  const TraceView trace = whole_trace(s, a.hold);
  const FrequencyRange band{a.occupied->lower_hz, a.occupied->upper_hz};
  const double width = a.occupied->width_hz();
  // Where a channel is named, the rest of the recording is nobody's business.
  if (!settings.channel_hz) {
    std::vector<Stretch> parts = stretches(s, trace, floor, range, width, 0.24);
    name_image(a, s, trace, floor, stretches(s, trace, floor, range, width, 0.02), parts);
    if (parts.size() > 1)
      a.remarks.push_back(
          {"several_signals", Severity::caution,
           fmt::format("There are {} signals apart from each other ({} and {}{}): the widths are "
                       "those of what lies within {}.",
                       parts.size(), place_text(parts[0].range), place_text(parts[1].range),
                       parts.size() > 2 ? ", \u2026" : "", place_text(band)),
           "Name a channel, or a range that holds one of them"});
  }
  name_lines(a, s, {band.first - width, band.second + width}, signal_in(s, trace, floor, band));
  if (settings.search_hz) {
    if (const auto at = cut_at(s, trace, floor, range, width)) {
      note_cut(a);
      a.remarks.push_back({"range_cuts", Severity::caution,
                           fmt::format("The signal goes on beyond the range, at {} Hz: the widths "
                                       "are at least these.",
                                       number_text(*at, 0)),
                           "Name a wider range"});
    }
  }
  name_filter(a, band);
}

}  // namespace heron
