#include "core/method/two_tone_trace.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kBoundDb = 3.0;

/// A Gaussian filter's response in dB at a distance from its middle; 3 dB down at half its width.
double skirt_db(double distance_hz, double rbw_hz) {
  const double x = 2.0 * distance_hz / rbw_hz;
  return std::max(-3.0103 * x * x, -90.0);
}

struct Peak {
  double frequency_hz = 0.0;
  double level_dbm = -400.0;
};

class Trace {
 public:
  Trace(const SpectrumTrace& trace, double rbw_hz) : t_(trace), rbw_hz_(rbw_hz) {}

  std::size_t index_of(double hz) const {
    const auto at = std::lower_bound(t_.frequency_hz.begin(), t_.frequency_hz.end(), hz);
    return std::min(static_cast<std::size_t>(at - t_.frequency_hz.begin()),
                    t_.frequency_hz.size() - 1);
  }

  bool covers(double hz) const {
    return hz >= t_.frequency_hz.front() && hz <= t_.frequency_hz.back();
  }

  /// The highest point within a distance, refined.
  Peak peak_near(double hz, double within_hz) const {
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

  /// A parabola in dB through the peak and its neighbours.
  Peak refined(std::size_t i) const {
    Peak peak{t_.frequency_hz[i], t_.level_dbm[i]};
    if (i == 0 || i + 1 >= t_.frequency_hz.size()) return peak;
    const double a = t_.level_dbm[i - 1];
    const double b = t_.level_dbm[i];
    const double c = t_.level_dbm[i + 1];
    const double bend = a - 2.0 * b + c;
    // Only where the three points belong to one line: a parabola over a floor means nothing.
    const double span = t_.frequency_hz[i + 1] - t_.frequency_hz[i - 1];
    if (bend >= 0.0 || b < a || b < c || span > 4.0 * rbw_hz_) return peak;
    const double offset = std::clamp(0.5 * (a - c) / bend, -0.5, 0.5);
    peak.frequency_hz += offset * span / 2.0;
    peak.level_dbm = b - 0.25 * (a - c) * offset;
    return peak;
  }

  /// Mean noise power round a place, leaving out the line there and every other known one, dBm in
  /// the filter's width; with the scatter of one point.
  double floor_dbm(double hz, const std::vector<double>& lines) const {
    std::vector<double> levels;
    const double reach = std::max(40.0 * t_.spacing_hz(), 12.0 * rbw_hz_);
    for (std::size_t i = index_of(hz - reach); i < t_.frequency_hz.size(); ++i) {
      const double f = t_.frequency_hz[i];
      if (f < hz - reach) continue;
      if (f > hz + reach) break;
      const bool is_line = std::any_of(lines.begin(), lines.end(), [&](double line) {
        return std::abs(f - line) < 3.0 * rbw_hz_ + 1.5 * t_.spacing_hz();
      });
      if (!is_line) levels.push_back(t_.level_dbm[i]);
    }
    if (levels.size() < 5) return -400.0;
    std::nth_element(levels.begin(),
                     levels.begin() + static_cast<std::ptrdiff_t>(levels.size() / 2), levels.end());
    return levels[levels.size() / 2];
  }

 private:
  const SpectrumTrace& t_;
  double rbw_hz_;
};

/// The two strongest lines that are not one line and its skirt.
std::vector<Peak> strongest(const SpectrumTrace& t, const Trace& trace, double rbw_hz) {
  std::vector<std::size_t> order;
  for (std::size_t i = 1; i + 1 < t.level_dbm.size(); ++i) {
    if (t.level_dbm[i] >= t.level_dbm[i - 1] && t.level_dbm[i] >= t.level_dbm[i + 1])
      order.push_back(i);
  }
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return t.level_dbm[a] > t.level_dbm[b]; });
  std::vector<Peak> peaks;
  for (const std::size_t i : order) {
    const Peak peak = trace.refined(i);
    const bool is_apart = std::all_of(peaks.begin(), peaks.end(), [&](const Peak& p) {
      return std::abs(p.frequency_hz - peak.frequency_hz) > 3.0 * std::max(rbw_hz, t.spacing_hz());
    });
    if (is_apart) peaks.push_back(peak);
    if (peaks.size() == 3) break;
  }
  return peaks;
}

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

/// 3 dB width of the line at a peak, as the trace shows it.
double width_at(const SpectrumTrace& t, const Trace& trace, const Peak& peak) {
  const std::size_t middle = trace.index_of(peak.frequency_hz);
  const double level = peak.level_dbm - 3.0103;
  const auto cross = [&](int step) {
    auto i = static_cast<std::ptrdiff_t>(middle);
    while (i + step >= 0 && i + step < static_cast<std::ptrdiff_t>(t.level_dbm.size())) {
      const auto here = static_cast<std::size_t>(i);
      const auto next = static_cast<std::size_t>(i + step);
      if (t.level_dbm[next] <= level && t.level_dbm[here] > level) {
        const double part = (t.level_dbm[here] - level) / (t.level_dbm[here] - t.level_dbm[next]);
        return std::abs(t.frequency_hz[here] +
                        part * (t.frequency_hz[next] - t.frequency_hz[here]) - peak.frequency_hz);
      }
      i += step;
    }
    return t.spacing_hz();
  };
  return cross(1) + cross(-1);
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
  a.linearity_u_db = settings.linearity_u_db;
  if (settings.carrier_hz) a.carrier_hz = *settings.carrier_hz - center;
  a.spectrum.id = "spectrum";
  a.spectrum.label = "Spectrum";
  a.spectrum.x_unit = "Hz";
  a.spectrum.y_unit = "dBFS";
  a.spectrum.x_start = t.frequency_hz.front() - center;
  a.spectrum.x_step = (t.frequency_hz.back() - t.frequency_hz.front()) /
                      static_cast<double>(t.frequency_hz.size() - 1);
  a.peak_dbfs = *std::max_element(t.level_dbm.begin(), t.level_dbm.end());

  // The filter's width decides how lines are told apart; without it, the strongest line shows it.
  const Trace rough(t, t.rbw_hz.value_or(4.0 * spacing));
  std::vector<Peak> peaks = strongest(t, rough, t.rbw_hz.value_or(spacing));
  const double rbw =
      t.rbw_hz.value_or(peaks.empty() ? spacing : std::max(spacing, width_at(t, rough, peaks[0])));
  a.rbw_hz = 1.0645 * rbw;  // noise bandwidth of a Gaussian filter
  const Trace trace(t, rbw);
  // Drawn evenly; a trace with uneven points is drawn by its nearest ones.
  for (std::size_t i = 0; i < t.frequency_hz.size(); ++i) {
    const double hz = t.frequency_hz.front() + a.spectrum.x_step * static_cast<double>(i);
    a.spectrum.y.push_back(static_cast<float>(t.level_dbm[trace.index_of(hz - 1e-6 * spacing)]));
  }
  add_remarks(a, t, rbw, t.rbw_hz.has_value());

  if (settings.tones_hz) {
    peaks = {trace.peak_near(settings.tones_hz->first, rbw + spacing),
             trace.peak_near(settings.tones_hz->second, rbw + spacing)};
    for (const double hz : {settings.tones_hz->first, settings.tones_hz->second}) {
      if (!trace.covers(hz))
        throw InputError(t.name, fmt::format("tone {:g} Hz", hz), "the trace does not reach it",
                         "Name the tones as radio frequencies inside the trace");
    }
  } else {
    peaks = strongest(t, trace, rbw);
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
    return a;
  }
  std::sort(peaks.begin(), peaks.begin() + 2,
            [](const Peak& x, const Peak& y) { return x.frequency_hz < y.frequency_hz; });
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
  // What may hide between two points: at worst the peak lies midway.
  const double missed_db = spacing > rbw / 2.0 ? -skirt_db(spacing / 2.0, rbw) : 0.0;
  const double u_peak = std::hypot(settings.reading_u_db, missed_db / std::sqrt(12.0));
  for (int i = 0; i < 2; ++i)
    a.tones.push_back({peaks[static_cast<std::size_t>(i)].frequency_hz - center, spacing / 4.0,
                       peaks[static_cast<std::size_t>(i)].level_dbm, u_peak});
  a.set_references();
  if (!settings.carrier_hz) a.carrier_hz = 0.0;

  std::vector<double> lines;
  for (int n = -15; n <= 15; ++n) {
    const double hz = (f1 + f2) / 2.0 + (n + 0.5) * (f2 - f1);
    if (trace.covers(hz)) lines.push_back(hz);
  }
  for (int order = 3; order <= settings.highest_order; order += 2) {
    const double k = (order + 1) / 2.0;
    for (const Side side : {Side::lower, Side::upper}) {
      const double hz = side == Side::lower ? k * f1 - (k - 1) * f2 : k * f2 - (k - 1) * f1;
      if (!trace.covers(hz)) continue;
      const double within = std::min(0.2 * (f2 - f1), rbw + spacing);
      const Peak peak = trace.peak_near(hz, within);
      const double floor = trace.floor_dbm(hz, lines);
      const double nearest = std::min(std::abs(hz - f1), std::abs(hz - f2));
      const double skirt =
          std::max(peaks[0].level_dbm, peaks[1].level_dbm) + skirt_db(nearest, rbw);
      TwoToneProduct p;
      p.order = order;
      p.side = side;
      p.frequency_hz = hz - center;
      p.floor_dbc = std::max(floor, skirt) - a.one_tone_dbfs;
      const double above = peak.level_dbm - std::max(floor, skirt);
      if (above < kBoundDb + 3.0) {
        // A single sweep's noise reaches some dB over its median: below that only a bound holds.
        p.is_bound = true;
        p.level_dbc = std::max(peak.level_dbm, std::max(floor, skirt) + kBoundDb) - a.one_tone_dbfs;
      } else {
        const double noise = power_ratio_from_db(-above);
        p.level_dbc = peak.level_dbm - a.one_tone_dbfs + db_from_power_ratio(1.0 - noise);
        // Two random phases: the cross term of signal and noise, sqrt(2 N/S) of the power.
        const double u_noise = kDbPerRelativePower * std::sqrt(2.0 * noise);
        p.u_db = std::hypot(u_noise, u_peak, u_peak / std::sqrt(2.0));
      }
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
