#include "core/method/two_tone_trace.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/trace_reader.h"

namespace heron {
namespace {

void add_remarks(TwoToneAnalysis& a, const SpectrumTrace& trace, double rbw_hz, bool is_rbw_known) {
  if (!is_rbw_known)
    a.remarks.push_back(
        {"rbw_unknown", Severity::caution,
         fmt::format("The trace does not say its RBW: {} was taken from the width of the tones.",
                     engineering_text(rbw_hz, "Hz", 3)),
         "Add a line such as # rbw: 10 Hz to the file"});
  if (trace.spacing_hz() > rbw_hz)
    a.remarks.push_back(
        {"points_wide", Severity::caution,
         fmt::format("Points stand {} apart, the RBW is {}: a peak can hide between two points.",
                     engineering_text(trace.spacing_hz(), "Hz", 3),
                     engineering_text(rbw_hz, "Hz", 3)),
         "Take the trace with more points or a smaller span"});
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

  std::vector<TracePeak> peaks;
  if (settings.tones_hz) {
    peaks = {trace.peak_near(settings.tones_hz->first, rbw + spacing),
             trace.peak_near(settings.tones_hz->second, rbw + spacing)};
    for (const double hz : {settings.tones_hz->first, settings.tones_hz->second}) {
      if (!trace.covers(hz))
        throw InputError(t.name, fmt::format("tone {:g} Hz", hz), "the trace does not reach it",
                         "Name the tones as radio frequencies inside the trace");
    }
  } else {
    peaks = trace.lines(3);
    if (peaks.empty()) {
      a.remarks.push_back({"no_tone", Severity::fault,
                           "No line stands out of the trace: it shows no two-tone signal.",
                           "Check the hook-up and the span, then take the trace again"});
      sort_remarks(a.remarks);
      return a;
    }
  }
  const bool has_pair =
      peaks.size() >= 2 && std::abs(peaks[0].level_dbm - peaks[1].level_dbm) < 12.0;
  if (!has_pair) {
    a.remarks.push_back({"one_tone", Severity::fault,
                         "The trace shows one strong line, not two tones: there is no "
                         "intermodulation to measure.",
                         "Drive the device with both tones and take the trace again"});
    if (!peaks.empty())
      a.tones.push_back({peaks[0].frequency_hz - center, spacing, peaks[0].level_dbm, 0.0});
    sort_remarks(a.remarks);
    return a;
  }
  std::sort(peaks.begin(), peaks.begin() + 2,
            [](const TracePeak& x, const TracePeak& y) { return x.frequency_hz < y.frequency_hz; });
  const double f1 = peaks[0].frequency_hz;
  const double f2 = peaks[1].frequency_hz;
  if (f2 - f1 < 3.0 * rbw) {
    a.remarks.push_back(
        {"unresolved", Severity::fault,
         fmt::format("The tones are {} apart, the RBW is {}: the filter does not "
                     "tell them apart.",
                     engineering_text(f2 - f1, "Hz", 3), engineering_text(rbw, "Hz", 3)),
         "Take the trace with an RBW of a fifth of the spacing or less"});
    return a;
  }
  const double u_peak = std::hypot(settings.reading_u_db, trace.u_missed_db());
  for (int i = 0; i < 2; ++i)
    a.tones.push_back({peaks[static_cast<std::size_t>(i)].frequency_hz - center, spacing / 4.0,
                       peaks[static_cast<std::size_t>(i)].level_dbm, u_peak});
  a.set_references();
  if (!settings.carrier_hz) a.carrier_hz = 0.0;

  // Places of the tones' products are no noise, whether something stands there or not.
  std::vector<TracePeak> known{peaks[0], peaks[1]};
  for (const TracePeak& line : trace.lines(60)) {
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
