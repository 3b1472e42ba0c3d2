#include "core/method/spread/bandwidth.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/line_power.h"
#include "core/method/plot_curve.h"
#include "core/method/spread/bandwidth_signal.h"
#include "core/method/spread/spectrum_width.h"
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

FrequencyRange round(double middle_hz, double width_hz) {
  return {middle_hz - width_hz / 2.0, middle_hz + width_hz / 2.0};
}

/// Middle of the window of a channel's width that holds most power.
double fullest_window(const Spectrum& s, TraceView trace, double floor, FrequencyRange all,
                      double width_hz) {
  double best = (all.first + all.second) / 2.0;
  double most = -1.0;
  const double step = std::max(s.bin_hz(), width_hz / 50.0);
  for (double low = all.first; low + width_hz <= all.second; low += step) {
    const double power = signal_in(s, trace, floor, {low, low + width_hz});
    if (power <= most) continue;
    most = power;
    best = low + width_hz / 2.0;
  }
  return best;
}

/// Where a channel is told, only it and as much again on each side: other signals do not count.
FrequencyRange searched_range(const Spectrum& s, TraceView trace, double floor,
                              const BandwidthSettings& settings) {
  const FrequencyRange all = whole_range(s, settings);
  if (!settings.channel_hz) return all;
  const double middle =
      settings.middle_hz.value_or(fullest_window(s, trace, floor, all, *settings.channel_hz));
  FrequencyRange wanted = round(middle, 3.0 * *settings.channel_hz);
  // The recorder's image of the channel is no part of it.
  const FrequencyRange channel = round(middle, *settings.channel_hz);
  if (s.is_complex && channel.first > 0.0) wanted.first = std::max(wanted.first, -channel.first);
  if (s.is_complex && channel.second < 0.0)
    wanted.second = std::min(wanted.second, -channel.second);
  return {std::max(all.first, wanted.first), std::min(all.second, wanted.second)};
}

/// What is read from a trace once the rough place of everything is known.
struct Layout {
  Hold hold = Hold::average;
  FrequencyRange search;
  FrequencyRange near;    ///< the occupied bandwidth and as much again on each side
  double width_hz = 0.0;  ///< about
  double fraction = 0.99;
  std::optional<double> middle_hz;  ///< the channel's, if it was told
  double channel_hz = 0.0;
  double window_hz = 0.0;
  std::vector<double> offsets_hz;
};

struct TraceReading {
  FrequencyRange occupied;
  std::optional<WidthAt26> x26;
  double middle_hz = 0.0;
  double channel = 0.0;         ///< signal power
  std::vector<double> windows;  ///< signal power relative to the channel's
  std::vector<double> carried;  ///< of it, what the transform's window brought in and was taken off
};

TraceReading read(const Spectrum& s, TraceView trace, const Layout& l) {
  TraceReading r;
  const double floor = quiet_floor(s, trace);
  r.occupied = occupied_in(s, trace, floor, l.fraction, l.search);
  r.x26 = width_at_26(s, trace, l.hold, floor, l.near, l.width_hz);
  // A middle that is found moves with the trace, and takes the edges of the windows along.
  r.middle_hz = l.middle_hz.value_or((r.occupied.first + r.occupied.second) / 2.0);
  r.channel = signal_in(s, trace, floor, round(r.middle_hz, l.channel_hz));
  for (const double offset : l.offsets_hz) {
    const RangePower p =
        signal_between_edges(s, trace, floor, round(r.middle_hz + offset, l.window_hz));
    r.windows.push_back(p.power / r.channel);
    r.carried.push_back(p.carried / r.channel);
  }
  return r;
}

void refuse_outside(const std::string& input, FrequencyRange channel, FrequencyRange all) {
  if (channel.first >= all.first && channel.second <= all.second) return;
  throw InputError(input, "channel",
                   fmt::format("{} to {} Hz reaches beyond the recording",
                               number_text(channel.first, 0), number_text(channel.second, 0)),
                   "Record with a higher rate, or name another channel");
}

/// Middles of the windows; remarks for those that the recording does not hold.
std::vector<double> offsets_inside(BandwidthAnalysis& a, const BandwidthSettings& settings,
                                   double width_hz, FrequencyRange all) {
  refuse_outside(a.input, round(a.channel_middle_hz, a.channel_hz), all);
  std::vector<double> offsets = settings.offsets_hz;
  if (offsets.empty()) offsets = {a.channel_hz, 2.0 * a.channel_hz};
  if (std::none_of(offsets.begin(), offsets.end(), [](double o) { return o < 0.0; })) {
    const auto upper = offsets;
    for (const double o : upper) offsets.push_back(-o);
  }
  std::sort(offsets.begin(), offsets.end());
  std::vector<double> inside;
  for (const double offset : offsets) {
    const FrequencyRange window = round(a.channel_middle_hz + offset, width_hz);
    if (window.first >= all.first && window.second <= all.second)
      inside.push_back(offset);
    else if (!settings.offsets_hz.empty())
      a.remarks.push_back(
          {"window_outside", Severity::caution,
           fmt::format("The adjacent channel at {} Hz reaches beyond the recording: its power "
                       "is not known.",
                       number_text(offset, 0, true)),
           "Record with a higher rate"});
  }
  return inside;
}

AdjacentPower adjacent_power(const Spectrum& s, double floor, const Layout& l,
                             const TraceReading& reading, std::size_t window, double scatter) {
  AdjacentPower out{l.offsets_hz[window], l.window_hz, 0.0, 0.0, false};
  const double bins = l.window_hz / s.bin_hz();
  const double noise = floor * bins;
  const double value = reading.windows[window];
  // Half of what was taken off at the edges depends on where in its bin an edge lies.
  const double u = std::hypot(
      std::max(scatter, noise / reading.channel * std::sqrt(2.0 / (bins * s.statistics.k_eff))),
      reading.carried[window] / 2.0);
  out.is_bound = value * reading.channel < noise || value < 2.0 * u;
  const double shown = out.is_bound ? std::max(value, 0.0) + kOneSided95 * u : value;
  out.ratio_db = db_from_power_ratio(std::max(shown, 1e-30));
  out.u_db = out.is_bound ? 0.0 : kDbPerRelativePower * u / value;
  return out;
}

void add_remarks(BandwidthAnalysis& a, const Spectrum& s, double floor, const Layout& layout,
                 const TraceReading& reading, const BandwidthSettings& settings) {
  const TraceView trace = whole_trace(s, a.hold);
  add_clipping(a.remarks, *a.parts, "widens the spectrum");
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
  const double left_out_db = db_from_power_ratio((1.0 - a.fraction) / 2.0);
  if (!settings.channel_hz && !a.adjacent.empty())
    a.remarks.push_back({"edges_beside", Severity::note,
                         fmt::format("The channel is the occupied bandwidth: up to {} dB of its "
                                     "own power lie in the adjacent channels by definition.",
                                     number_text(left_out_db, 1)),
                         "Name the channel\u2019s width to see less"});
  const double inside = signal_in(s, trace, floor, layout.near);
  const double outside = signal_in(s, trace, floor, layout.search) - inside;
  if (settings.middle_hz && reading.channel < 0.9 * inside)
    a.remarks.push_back(
        {"channel_misses", Severity::caution,
         fmt::format("The channel from {} to {} Hz holds only {:.0f} % of the signal.",
                     number_text(a.channel_middle_hz - a.channel_hz / 2.0, 0),
                     number_text(a.channel_middle_hz + a.channel_hz / 2.0, 0),
                     100.0 * std::max(0.0, reading.channel / inside)),
         "Check the carrier\u2019s place, the sideband and the channel\u2019s width"});
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
                     a.averages, a.parts->measured.length_s),
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
  const double top = info.sample_rate_hz / 2.0;
  if (s.channel_hz && s.middle_hz)
    refuse_outside(info.name, round(*s.middle_hz, *s.channel_hz),
                   {info.is_complex ? -top : 0.0, top});
  if (s.search_hz && !(s.search_hz->first < s.search_hz->second))
    refuse("range", "it does not run from low to high", "Name the lower frequency first");
}

}  // namespace

BandwidthAnalysis analyse_bandwidth(const CaptureOpener& open, const BandwidthSettings& settings,
                                    const Progress& progress, const std::stop_token& stop) {
  check(settings, open()->info());
  return analyse_bandwidth(measured_part(open, settings.part, settings.threads,
                                         progress_between(progress, 0.0, 0.2), stop),
                           settings, progress_between(progress, 0.2, 1.0), stop);
}

BandwidthAnalysis analyse_bandwidth(const MeasuredPart& part, const BandwidthSettings& settings,
                                    const Progress& progress, const std::stop_token& stop) {
  BandwidthAnalysis a;
  a.capture = part.recording;
  a.parts = part.parts;
  a.remarks = part.remarks;
  a.input = a.capture.name;
  a.hold = settings.hold;
  a.fraction = settings.fraction;
  check(settings, a.capture);

  const double span = a.capture.sample_rate_hz * (a.capture.is_complex ? 1.0 : 0.5);
  Spectrum s = spectrum_for_width(part.open, span, 2048.0, settings.threads, progress, stop);
  const auto find = [&](TraceView trace) {
    const double floor = quiet_floor(s, trace);
    return occupied_in(s, trace, floor, settings.fraction,
                       searched_range(s, trace, floor, settings));
  };
  double spike_share = take_spike_off(s);
  FrequencyRange range = find(whole_trace(s, settings.hold));
  // The edges hold half a per cent each: the resolution has to be finer than that.
  constexpr double kBinsAcross = 1000.0;
  if ((range.second - range.first) / s.bin_hz() < kBinsAcross) {
    Spectrum finer = spectrum_for_width(part.open, std::max(range.second - range.first, 20.0),
                                        kBinsAcross, settings.threads, progress, stop);
    if (finer.segment > s.segment) {
      s = std::move(finer);
      spike_share = take_spike_off(s);
      range = find(whole_trace(s, settings.hold));
    }
  }
  const TraceView trace = whole_trace(s, settings.hold);
  const double floor = quiet_floor(s, trace);
  a.rbw_hz = s.rbw_hz();
  a.averages = s.averages;
  a.clipped_samples = a.parts->clipped_samples;
  a.average = spectrum_curve(s, s.power, settings.plot_points);
  a.max_hold = spectrum_curve(s, s.max_hold, settings.plot_points);
  a.max_hold.label = "Max-hold";

  const FrequencyRange search = searched_range(s, trace, floor, settings);
  const double width = range.second - range.first;
  const FrequencyRange near{std::max(search.first, range.first - width),
                            std::min(search.second, range.second + width)};
  const double signal = signal_in(s, trace, floor, range);
  const double noise = floor * width / s.bin_hz();
  const bool stands_out =
      signal > 0.0 && width > 0.0 &&
      signal + noise >
          2.0 * noise *
              (1.0 + 3.0 / std::sqrt(s.statistics.k_eff * std::max(width / s.rbw_hz(), 1.0)));
  if (!stands_out) {
    a.remarks.push_back({"nothing_found", Severity::fault,
                         "Nothing rises 3 dB above what looks like the floor: the recording is "
                         "noise, or the signal fills all of it.",
                         "Check the level, or record with a higher rate"});
    return a;
  }
  a.power_dbfs = db_from_power_ratio(signal);
  a.floor_share = floor * (near.second - near.first) / s.bin_hz() /
                  std::max(signal_in(s, trace, floor, near), 1e-30);
  Layout layout{settings.hold,      search, near, width, settings.fraction,
                settings.middle_hz, 0.0,    0.0,  {}};
  a.channel_middle_hz = settings.middle_hz.value_or((range.first + range.second) / 2.0);
  a.channel_hz = settings.channel_hz.value_or(width);
  layout.channel_hz = a.channel_hz;
  layout.window_hz = settings.adjacent_hz.value_or(a.channel_hz);
  layout.offsets_hz = offsets_inside(a, settings, layout.window_hz, whole_range(s, {}));

  const TraceReading reading = read(s, trace, layout);
  const WidthAt26 x26 = reading.x26.value_or(WidthAt26{});
  const std::vector<double> u = jackknife_u(s, settings.hold, [&](TraceView t) {
    const TraceReading r = read(s, t, layout);
    const FrequencyRange w = r.x26.value_or(x26).edges;
    std::vector<double> figures{r.occupied.second - r.occupied.first, w.second - w.first};
    figures.insert(figures.end(), r.windows.begin(), r.windows.end());
    return figures;
  });
  // Where in its bin an edge lies is not known better than this.
  const double in_bin = s.bin_hz() / std::sqrt(12.0);
  a.occupied = WidthAtLevel{reading.occupied.first, reading.occupied.second,
                            std::hypot(u[0], in_bin), in_bin};
  if (reading.x26) {
    a.x26 = WidthAtLevel{x26.edges.first, x26.edges.second, std::hypot(u[1], x26.u_hz), x26.u_hz};
  } else {
    a.remarks.push_back(
        {"floor_26", Severity::caution,
         "The floor is less than 29 dB below the highest point: the \u221226 dB width "
         "cannot be told.",
         "Bring the level nearer to full scale"});
  }
  for (std::size_t i = 0; i < layout.offsets_hz.size(); ++i)
    a.adjacent.push_back(adjacent_power(s, floor, layout, reading, i, u[2 + i]));
  add_remarks(a, s, floor, layout, reading, settings);
  note_spike(a.remarks, spike_share);
  add_signal_remarks(a, s, floor, whole_range(s, settings), settings);
  sort_remarks(a.remarks);
  return a;
}

Figure width_figure(const WidthAtLevel& w, Hold hold) {
  Figure f;
  f.value = w.width_hz();
  f.unit = "Hz";
  f.convention = hold_name(hold);
  f.bound = w.is_cut ? Bound::lower : Bound::none;
  const double scatter =
      std::sqrt(std::max(0.0, w.u_hz * w.u_hz - w.u_resolution_hz * w.u_resolution_hz));
  f.contributions = {{"scatter between parts of the recording", scatter, Scope::independent}};
  if (w.u_resolution_hz > 0.0)
    f.contributions.push_back(
        {"where an edge lies within the resolution", w.u_resolution_hz, Scope::independent});
  return f;
}

Figure adjacent_figure(const AdjacentPower& p, Hold hold, const RecorderLinearity& linearity) {
  Figure f{fmt::format("acpr_{:+.0f}", p.offset_hz),
           fmt::format("Power at {} Hz", number_text(p.offset_hz, 0, true)),
           p.ratio_db,
           "dB",
           "re channel, " + hold_name(hold),
           {},
           p.is_bound ? Bound::upper : Bound::none};
  if (!p.is_bound)
    f.contributions.push_back(
        {"scatter between parts of the recording", p.u_db, Scope::independent});
  if (linearity.u_db > 0.0) f.contributions.push_back(linearity.contribution());
  return f;
}

Result to_result(const BandwidthAnalysis& a) {
  Result r;
  r.method = "bandwidth";
  r.inputs = {a.input};
  r.headline_id = "occupied_bandwidth";
  r.remarks = a.remarks;
  r.curves = {a.average, a.max_hold};
  const auto width = [&](const char* id, const std::string& label, const WidthAtLevel& w) {
    Figure f = width_figure(w, a.hold);
    f.id = id;
    f.label = label;
    r.figures.push_back(f);
  };
  if (a.occupied)
    width("occupied_bandwidth", fmt::format("{:g} % bandwidth", 100.0 * a.fraction), *a.occupied);
  if (a.x26) width("x26", "\u221226 dB bandwidth", *a.x26);
  for (const AdjacentPower& p : a.adjacent)
    r.figures.push_back(adjacent_figure(p, a.hold, a.linearity));
  return r;
}

std::string hold_name(Hold hold) {
  return hold == Hold::average ? "average" : "max-hold";
}

}  // namespace heron
