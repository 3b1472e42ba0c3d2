#include "core/method/two_tone/two_tone_trace.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/two_tone/pair_choice.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/trace_reader.h"

namespace heron {
namespace {

void add_remarks(TwoToneAnalysis& a, const SpectrumTrace& trace, double rbw_hz, bool is_rbw_known) {
  if (!is_rbw_known)
    a.remarks.push_back(
        {"rbw_unknown", Severity::caution,
         fmt::format("The trace does not say its RBW: {} was derived from the width of the tones.",
                     engineering_text(rbw_hz, "Hz", 3)),
         "Add a line such as # rbw: 10 Hz to the file"});
  if (trace.spacing_hz() > rbw_hz)
    a.remarks.push_back(
        {"points_wide", Severity::caution,
         fmt::format("Points are {} apart, the RBW is {}: a peak can hide between two points.",
                     engineering_text(trace.spacing_hz(), "Hz", 3),
                     engineering_text(rbw_hz, "Hz", 3)),
         "Sweep again with more points or a smaller span"});
}

std::string at(double hz) {
  return engineering_text(hz, "Hz", 8);
}

/// The two tones among the lines of a trace, or a remark that says why not.
std::optional<std::pair<TracePeak, TracePeak>> tones_of(TwoToneAnalysis& a,
                                                        const TraceReader& trace,
                                                        const std::vector<TracePeak>& peaks,
                                                        const TraceSettings& settings) {
  const auto refuse = [&](const char* code, std::string why, const char* what_to_do) {
    a.remarks.push_back({code, Severity::fault, std::move(why), what_to_do});
    return std::nullopt;
  };
  const double rbw = trace.rbw_hz();
  const auto is_resolved = [&](double spacing_hz) { return spacing_hz >= 3.0 * rbw; };
  const auto unresolved = [&](double spacing_hz) {
    return refuse(
        "unresolved",
        fmt::format("The tones are {} apart, the RBW is {}: the filter does not tell "
                    "them apart.",
                    engineering_text(spacing_hz, "Hz", 3), engineering_text(rbw, "Hz", 3)),
        "Sweep again with an RBW of a fifth of the spacing or less");
  };
  if (settings.tones_hz) {
    for (const double hz : {settings.tones_hz->first, settings.tones_hz->second}) {
      if (!trace.covers(hz))
        throw InputError(a.input, fmt::format("tone {:g} Hz", hz), "the trace does not reach it",
                         "Name the tones as radio frequencies inside the trace");
    }
    const double asked = std::abs(settings.tones_hz->second - settings.tones_hz->first);
    if (!is_resolved(asked)) return unresolved(asked);
  }
  if (peaks.empty())
    return refuse("no_tone", "No line rises out of the trace: it shows no two-tone signal.",
                  "Check the hook-up and the span, then sweep again");
  std::vector<SpectralLine> lines;
  for (const TracePeak& peak : peaks)
    lines.push_back({peak.frequency_hz, power_ratio_from_db(peak.level_dbm)});
  std::optional<LinePair> pair;
  if (settings.tones_hz) {
    const AskedPair asked = find_asked_pair(lines, settings.tones_hz->first,
                                            settings.tones_hz->second, trace.resolution_hz());
    if (!asked.pair)
      return refuse("tone_missing",
                    fmt::format("There is no line within {} of {}, where a tone was asked for; the "
                                "strongest line is at {}.",
                                engineering_text(asked.reach_hz, "Hz", 3), at(*asked.missing_hz),
                                at(peaks[0].frequency_hz)),
                    "Name the tones as radio frequencies inside the trace");
    pair = asked.pair;
  } else {
    const PairChoice choice = choose_tone_pair(lines, trace.resolution_hz());
    if (!choice.rivals.empty())
      return refuse("pair_ambiguous",
                    rivals_text(choice.rivals,
                                [](const LinePair& rival) {
                                  return at(rival.first.frequency_hz) + " and " +
                                         at(rival.second.frequency_hz);
                                }),
                    "Name the tones, or sweep again without the other carriers");
    if (!choice.pair)
      return refuse("one_tone",
                    "The trace shows one strong line, not two tones: there is no "
                    "intermodulation to measure.",
                    "Drive the device with both tones and sweep again");
    pair = choice.pair;
  }
  const auto peak_of = [](const SpectralLine& line) {
    return TracePeak{line.frequency_hz, db_from_power_ratio(line.power)};
  };
  const double apart = pair->second.frequency_hz - pair->first.frequency_hz;
  if (!is_resolved(apart)) return unresolved(apart);
  return std::pair{peak_of(pair->first), peak_of(pair->second)};
}

}  // namespace

TwoToneAnalysis analyse_trace(const SpectrumTrace& t, const TraceSettings& settings) {
  TwoToneAnalysis a;
  const double center = (t.frequency_hz.front() + t.frequency_hz.back()) / 2.0;
  const double spacing = t.spacing_hz();
  a.input = t.name;
  a.noise_source = "noise in the trace";
  a.capture.name = t.name;
  a.capture.format = fmt::format("CSV trace, {} points", t.frequency_hz.size());
  a.capture.frames = static_cast<std::int64_t>(t.frequency_hz.size());
  a.capture.is_complex = true;
  a.capture.center_hz = center;
  a.capture.sample_rate_hz = t.frequency_hz.back() - t.frequency_hz.front();
  a.window = kAnalyserWindow;
  a.averages = 1;
  a.full_scale_dbm = 0.0;
  a.linearity.u_db = settings.linearity_u_db;
  if (settings.carrier_hz) a.carrier_hz = *settings.carrier_hz - center;
  a.spectrum.id = "spectrum";
  a.spectrum.label = "Spectrum";
  a.spectrum.x_unit = "Hz";
  a.spectrum.y_unit = "dBFS";
  a.spectrum.x_start = t.frequency_hz.front() - center;
  a.spectrum.x_step = (t.frequency_hz.back() - t.frequency_hz.front()) /
                      static_cast<double>(t.frequency_hz.size() - 1);
  a.peak_dbfs = *std::max_element(t.level_dbm.begin(), t.level_dbm.end());

  const TraceReader trace(t);
  const double rbw = trace.rbw_hz();
  a.rbw_hz = trace.noise_bandwidth_hz();
  // Drawn evenly; a trace with uneven points is drawn by its nearest ones.
  for (std::size_t i = 0; i < t.frequency_hz.size(); ++i) {
    const double hz = t.frequency_hz.front() + a.spectrum.x_step * static_cast<double>(i);
    a.spectrum.y.push_back(static_cast<float>(t.level_dbm[trace.index_of(hz - 1e-6 * spacing)]));
  }
  add_remarks(a, t, rbw, t.rbw_hz.has_value());

  const std::vector<TracePeak> peaks = trace.lines(60);
  const auto tones = tones_of(a, trace, peaks, settings);
  if (!tones) {
    if (!peaks.empty())
      a.tones.push_back({peaks[0].frequency_hz - center, spacing, peaks[0].level_dbm, 0.0});
    sort_remarks(a.remarks);
    return a;
  }
  const double f1 = tones->first.frequency_hz;
  const double f2 = tones->second.frequency_hz;
  const double u_peak = std::hypot(settings.reading_u_db, trace.u_missed_db());
  for (const TracePeak& tone : {tones->first, tones->second})
    a.tones.push_back({tone.frequency_hz - center, spacing / 4.0, tone.level_dbm, u_peak});
  a.set_references();
  if (!settings.carrier_hz) a.carrier_hz = 0.0;

  // Places of the tones' products are no noise, whether something stands there or not.
  std::vector<TracePeak> known{tones->first, tones->second};
  for (const TracePeak& line : peaks) {
    if (std::abs(line.frequency_hz - f1) > rbw && std::abs(line.frequency_hz - f2) > rbw)
      known.push_back(line);
  }
  for (int order = 3; order <= settings.highest_order; order += 2) {
    const double k = (order + 1) / 2.0;
    for (const Side side : {Side::lower, Side::upper}) {
      const double hz = side == Side::lower ? k * f1 - (k - 1) * f2 : k * f2 - (k - 1) * f1;
      if (!trace.covers(hz)) continue;
      const double within = std::min(0.2 * (f2 - f1), rbw + spacing);
      const TraceLine line = trace.measure(hz, within, known, settings.reading_u_db);
      TwoToneProduct p;
      p.order = order;
      p.side = side;
      p.frequency_hz = hz - center;
      p.floor_dbc = line.floor_dbm - a.one_tone_dbfs;
      p.is_bound = line.is_bound;
      p.level_dbc = line.level_dbm - a.one_tone_dbfs;
      // The reference is the mean of two peaks.
      if (!p.is_bound) p.u_db = std::hypot(line.u_db, u_peak / std::sqrt(2.0));
      p.level_db_pep = to_pep(DbOneTone{p.level_dbc}, Db{a.pep_over_tone_db()}).value;
      a.products.push_back(p);
    }
  }
  if (!a.products.empty()) {
    double lowest = 400.0;
    for (const TwoToneProduct& p : a.products) lowest = std::min(lowest, -p.floor_dbc);
    a.usable_dynamic_range_db = lowest;
  }
  sort_remarks(a.remarks);
  return a;
}

}  // namespace heron
