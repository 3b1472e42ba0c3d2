#include "core/method/phase_noise/noise_trace.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <map>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "core/signal/median.h"
#include "core/signal/noise_quantile.h"

namespace heron {
namespace {

constexpr double kFromFilters = 6.0;
constexpr double kNoisePerWidth = 1.0645;  // Gaussian filter
constexpr double kLogAverageDb = 2.507;    // of Gaussian noise
constexpr double kTraceLineDb = 6.0;
constexpr double kTraceLineChance = 1e-7;
constexpr double kCarrierOutDb = 20.0;
constexpr double kUsualLogU = 0.25;     // an analyser's scale over such a distance, standard
constexpr double kUsualFilterU = 0.15;  // what is known of its filter
constexpr double kLineFilters = 3.0;    // a line's skirts reach so far

/// One span, as offsets from the carrier.
struct Span {
  const SpectrumTrace* trace = nullptr;
  double carrier_hz = 0.0;
  double carrier_dbm = 0.0;
  double rbw_hz = 0.0;
  double averages = 1.0;
  bool is_log = false;
  std::vector<NoiseSpur> lines;
  std::vector<bool> is_line;  ///< one a point
};

[[noreturn]] void refuse(const SpectrumTrace& t, const std::string& why, const std::string& todo) {
  throw InputError(t.name, "", why, todo);
}

Span span_of(const SpectrumTrace& t) {
  if (!t.rbw_hz)
    refuse(t, "the filter it was taken with is not known",
           "Add a line # rbw_hz: 30, and # rbw_kind: 3db or noise");
  if (!t.has_rbw_kind)
    refuse(t, "which width of the filter is meant is not known",
           "Add a line # rbw_kind: 3db, or noise for its noise bandwidth");
  if (t.detector == TraceDetector::unknown)
    refuse(t, "its detector is not known", "Add a line # detector: log-average, or power-average");
  if (t.detector == TraceDetector::peak)
    refuse(t, "a peak detector reads noise too high, by how much is not known",
           "Take the trace with an average detector");
  Span s;
  s.trace = &t;
  s.rbw_hz = *t.rbw_hz;
  s.averages = t.averages.value_or(1);
  s.is_log = t.detector == TraceDetector::log_average;
  const auto peak = std::max_element(t.level_dbm.begin(), t.level_dbm.end());
  std::vector<double> copy = t.level_dbm;
  if (*peak < median_of(copy) + kCarrierOutDb)
    refuse(t, "no carrier stands out of it", "Tune the carrier into the middle of the span");
  const auto at = static_cast<std::size_t>(peak - t.level_dbm.begin());
  s.carrier_hz = t.frequency_hz[at];
  s.carrier_dbm = *peak;
  s.is_line.assign(t.level_dbm.size(), false);
  return s;
}

/// Lines of one span: no wider than its filter, over the middle of what is round them.
void find_span_lines(Span& s) {
  const SpectrumTrace& t = *s.trace;
  const double spacing = std::max(t.spacing_hz(), 1e-9);
  const auto lobe =
      static_cast<std::size_t>(std::max(1.0, std::ceil(kLineFilters * s.rbw_hz / spacing)));
  const double sweeps = std::max(1.0, s.averages);
  const double over_db =
      std::max(kTraceLineDb, db_from_power_ratio(noise_quantile(sweeps, 1.0 - kTraceLineChance)));
  for (std::size_t i = lobe; i + lobe < t.level_dbm.size(); ++i) {
    const double offset = std::abs(t.frequency_hz[i] - s.carrier_hz);
    if (offset < kFromFilters * s.rbw_hz) continue;
    const double here = t.level_dbm[i];
    if (here != *std::max_element(t.level_dbm.begin() + static_cast<std::ptrdiff_t>(i - lobe),
                                  t.level_dbm.begin() + static_cast<std::ptrdiff_t>(i + lobe + 1)))
      continue;
    const std::size_t reach = std::max<std::size_t>(8, 3 * lobe);
    const auto side = [&](bool is_low) -> std::optional<double> {
      std::vector<double> some;
      for (std::size_t k = lobe + 1; k <= lobe + reach; ++k) {
        if (is_low ? i < k : i + k >= t.level_dbm.size()) break;
        const std::size_t j = is_low ? i - k : i + k;
        if (std::abs(t.frequency_hz[j] - s.carrier_hz) < kFromFilters * s.rbw_hz) break;
        some.push_back(t.level_dbm[j]);
      }
      return some.size() >= 5 ? std::optional(median_of(some)) : std::nullopt;
    };
    const auto low = side(true);
    const auto high = side(false);
    if (!low && !high) continue;
    const double noise = low && high ? 0.5 * (*low + *high) : low ? *low : *high;
    if (here < noise + over_db) continue;
    // A hump is wider than the filter.
    if (std::min(t.level_dbm[i - lobe], t.level_dbm[i + lobe]) >
        std::max(noise + over_db, here - 6.0))
      continue;
    NoiseSpur line;
    line.offset_hz = offset;
    line.level_dbc = here - s.carrier_dbm;
    line.u_db = kUsualLogU;
    s.lines.push_back(line);
    for (std::size_t k = i - lobe; k <= i + lobe; ++k) s.is_line[k] = true;
  }
}

struct Bin {
  double sum = 0.0;  ///< of powers, or of decibels where they were averaged in decibels
  double count = 0.0;
  double independent = 0.0;
};

std::map<int, Bin> bins_of(const Span& s, int per_decade) {
  std::map<int, Bin> bins;
  const SpectrumTrace& t = *s.trace;
  const double share = std::min(1.0, t.spacing_hz() / s.rbw_hz);
  for (std::size_t i = 0; i < t.level_dbm.size(); ++i) {
    const double offset = std::abs(t.frequency_hz[i] - s.carrier_hz);
    if (offset < kFromFilters * s.rbw_hz || s.is_line[i]) continue;
    Bin& bin = bins[static_cast<int>(std::lround(std::log10(offset) * per_decade))];
    const double db = t.level_dbm[i] - s.carrier_dbm;
    bin.sum += s.is_log ? db : power_ratio_from_db(db);
    bin.count += 1.0;
    bin.independent += share * s.averages;
  }
  return bins;
}

/// Both sidebands of one modulation are one spur.
std::vector<NoiseSpur> joined(const Span& span) {
  std::vector<NoiseSpur> lines = span.lines;
  const std::vector<double>& at = span.trace->frequency_hz;
  const double within_hz = 2.0 * std::max(span.rbw_hz, span.trace->spacing_hz());
  std::sort(lines.begin(), lines.end(),
            [](const NoiseSpur& a, const NoiseSpur& b) { return a.offset_hz < b.offset_hz; });
  std::vector<NoiseSpur> all;
  for (std::size_t i = 0; i < lines.size();) {
    std::size_t end = i + 1;
    double power = power_ratio_from_db(lines[i].level_dbc);
    double hz = lines[i].offset_hz;
    while (end < lines.size() && lines[end].offset_hz - lines[i].offset_hz <= within_hz) {
      power += power_ratio_from_db(lines[end].level_dbc);
      hz += lines[end].offset_hz;
      ++end;
    }
    const auto n = static_cast<double>(end - i);
    NoiseSpur s = lines[i];
    s.offset_hz = hz / n;
    // Read at radio frequency: of one side only the modulation is half of it.
    const bool shows_both =
        span.carrier_hz - s.offset_hz >= at.front() && span.carrier_hz + s.offset_hz <= at.back();
    s.is_one_sided = end - i == 1 && shows_both;
    s.level_dbc = s.is_one_sided ? lines[i].level_dbc - 6.0206 : db_from_power_ratio(power / n);
    all.push_back(s);
    i = end;
  }
  return all;
}

}  // namespace

NoiseCurve noise_of_traces(std::span<const SpectrumTrace> traces, int per_decade) {
  if (traces.empty()) throw InputError("traces", "", "there are none", "Give one file a span");
  std::vector<Span> spans;
  for (const SpectrumTrace& t : traces) spans.push_back(span_of(t));
  std::sort(spans.begin(), spans.end(),
            [](const Span& a, const Span& b) { return a.rbw_hz < b.rbw_hz; });
  NoiseCurve curve;
  curve.name = traces.front().name;
  curve.per_decade = per_decade;
  curve.detector = spans.front().is_log ? NoiseDetector::log_average : NoiseDetector::power_average;
  curve.carrier_hz = curve.rf_hz = spans.front().carrier_hz;
  curve.level_dbm = spans.front().carrier_dbm;
  std::map<int, CurvePoint> points;
  std::vector<NoiseSpur> spurs;
  for (std::size_t i = 0; i < spans.size(); ++i) {
    Span& s = spans[i];
    if (std::abs(s.carrier_hz - *curve.rf_hz) > 1e-3 * *curve.rf_hz)
      refuse(*s.trace,
             "its carrier is at " + frequency_text(s.carrier_hz) + ", not at " +
                 frequency_text(*curve.rf_hz),
             "Give spans of one carrier only");
    // A span that steps wider than its filter may miss the top of the carrier.
    if (s.trace->spacing_hz() > s.rbw_hz) s.carrier_dbm = std::max(s.carrier_dbm, *curve.level_dbm);
    find_span_lines(s);
    const double noise_hz = kNoisePerWidth * s.rbw_hz;
    for (const auto& [k, bin] : bins_of(s, per_decade)) {
      // The narrowest filter that sees it is the one to believe.
      if (points.contains(k)) continue;
      CurvePoint p;
      p.offset_hz = std::pow(10.0, static_cast<double>(k) / per_decade);
      const double mean = bin.sum / bin.count;
      p.l_dbc_hz = (s.is_log ? mean + kLogAverageDb : db_from_power_ratio(mean)) -
                   db_from_power_ratio(noise_hz);
      // Decibels of Gaussian noise scatter by 5.57 dB, powers by their own size.
      const double scatter = s.is_log ? 5.57 : 1.0 / kPowerPerDb;
      p.u_db = scatter / std::sqrt(std::max(1.0, bin.independent));
      p.line_hz = noise_hz;
      p.u_common_db = std::hypot(kUsualLogU, kUsualFilterU);
      points[k] = p;
    }
    const double from = i == 0 ? 0.0 : kFromFilters * s.rbw_hz;
    for (const NoiseSpur& line : joined(s)) {
      const bool is_known = std::any_of(spurs.begin(), spurs.end(), [&](const NoiseSpur& other) {
        return std::abs(other.offset_hz - line.offset_hz) < 3.0 * s.rbw_hz;
      });
      if (line.offset_hz >= from && !is_known) spurs.push_back(line);
    }
  }
  for (const auto& [k, p] : points) curve.points.push_back(p);
  curve.spurs = std::move(spurs);
  std::sort(curve.spurs.begin(), curve.spurs.end(),
            [](const NoiseSpur& a, const NoiseSpur& b) { return a.offset_hz < b.offset_hz; });
  if (curve.points.size() < 2)
    throw InputError(curve.name, "", "nothing of it lies six filter widths from the carrier",
                     "Take a wider span, or a narrower filter");
  if (std::any_of(traces.begin(), traces.end(),
                  [](const SpectrumTrace& t) { return !t.averages.has_value(); }))
    curve.remarks.push_back({"averages_unknown", Severity::note,
                             "How many sweeps a trace averages is not stated: one is assumed for "
                             "its \u00b1.",
                             "Add a line # averages: 16"});
  curve.remarks.push_back({"am_included", Severity::note,
                           "An analyser shows amplitude noise together with phase noise.", ""});
  return curve;
}

}  // namespace heron
