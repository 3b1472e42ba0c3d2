#include "core/method/purity/purity_reading.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/band_power.h"
#include "core/method/measure/line_power.h"
#include "core/method/measure/tone_finder.h"
#include "core/method/measure/wandering_line.h"
#include "core/method/plot_curve.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/trace_reader.h"

namespace heron {
namespace {

constexpr std::size_t kMostLines = 60;

/// Runs `at` for each harmonic in range that no reading stands for.
template <class At>
void fill_missing_harmonics(PuritySource& source, double carrier_hz, const At& at) {
  const PurityReading* carrier = carrier_in(source, carrier_hz);
  const double exact = carrier != nullptr ? carrier->frequency_hz : carrier_hz;
  for (int n = 1; n <= kHighestHarmonic; ++n) {
    const double f = n * exact;
    if (!source.covers(f)) continue;
    const double within =
        (carrier != nullptr ? 0.0 : frequency_tolerance_hz(f)) + 4.0 * source.resolution_hz;
    const bool is_there =
        std::any_of(source.readings.begin(), source.readings.end(),
                    [&](const PurityReading& r) { return std::abs(r.frequency_hz - f) <= within; });
    if (!is_there && n > 1) source.readings.push_back(at(f));
  }
  std::sort(source.readings.begin(), source.readings.end(),
            [](const PurityReading& a, const PurityReading& b) {
              return a.frequency_hz < b.frequency_hz;
            });
}

PurityReading reading_of(const LinePower& line, double frequency_hz, double full_scale_dbm) {
  PurityReading r;
  r.frequency_hz = frequency_hz;
  r.is_bound = line.is_bound;
  const double power = line.is_bound ? line.upper_power : line.power;
  r.level_dbm = db_from_power_ratio(std::max(power, 1e-30)) + full_scale_dbm;
  r.u_db = line.is_bound ? 0.0 : kDbPerRelativePower * line.u_power / line.power;
  r.floor_dbm = db_from_power_ratio(std::max(line.noise_rbw, 1e-30)) + full_scale_dbm;
  return r;
}

/// Where a source looked, in cells, those joined that are nearly the same: `level(from, to)` says
/// from which level on a line would be among its readings, nullopt where it cannot.
template <class Level>
void note_seen(PuritySource& source, const Level& level) {
  constexpr int kCells = 200;
  constexpr double kSameDb = 1.0;
  const double step = (source.to_hz - source.from_hz) / kCells;
  for (int i = 0; i < kCells; ++i) {
    const double from = source.from_hz + i * step;
    const std::optional<double> dbm = level(from, from + step);
    if (!dbm) continue;
    SeenRange* before = source.seen.empty() ? nullptr : &source.seen.back();
    if (before != nullptr && before->to_hz >= from &&
        std::abs(before->level_dbm - *dbm) < kSameDb) {
      before->to_hz = from + step;
      before->level_dbm = std::max(before->level_dbm, *dbm);
    } else {
      source.seen.push_back({from, from + step, *dbm});
    }
  }
}

/// From which level on (dBFS) a spectrum shows a line between two frequencies.
double shown_from(const Spectrum& s, const std::vector<float>& least, double from_hz,
                  double to_hz) {
  const auto bin = [&](double hz) {
    return std::clamp<std::ptrdiff_t>(std::lround(s.position(hz)), 0,
                                      static_cast<std::ptrdiff_t>(least.size()) - 1);
  };
  const float highest =
      *std::max_element(least.begin() + bin(from_hz), least.begin() + bin(to_hz) + 1);
  return db_from_power_ratio(std::max(static_cast<double>(highest), 1e-30));
}

/// Why a line of an I/Q recording may be the recorder's own, or empty.
std::string doubt_about(const SpectralLine& line, const std::vector<SpectralLine>& lines,
                        double bin_hz, double center_hz) {
  if (std::abs(line.frequency_hz) < 4.0 * bin_hz) return "the recorder\u2019s own centre";
  for (const SpectralLine& other : lines) {
    const bool is_mirror = std::abs(line.frequency_hz + other.frequency_hz) < 3.0 * bin_hz;
    if (is_mirror && other.power > 30.0 * line.power)
      return "the mirror image of " + engineering_text(center_hz + other.frequency_hz, "Hz", 6);
  }
  return "";
}

void note_wandering(PuritySource& source, const WanderingLine& carrier, double bin_hz) {
  if (carrier.is_steady()) return;
  const std::string width = number_text(2.0 * carrier.half_width_bins * bin_hz, 0);
  if (carrier.drift_hz != 0.0)
    source.remarks.push_back(
        {"carrier_drift", Severity::caution,
         fmt::format("{}: the carrier drifted by {} Hz during the recording: lines were measured "
                     "{} Hz wide, what lies nearer to it is not resolved.",
                     source.name, number_text(carrier.drift_hz, 0, true), width),
         "Let the transmitter warm up, or record for less long"});
  else
    source.remarks.push_back(
        {"carrier_wide", Severity::caution,
         fmt::format(
             "{}: the carrier is {} Hz wide (modulated, or unsteady): lines were measured as "
             "wide, what lies nearer to it is not resolved.",
             source.name, width),
         "Send an unmodulated carrier"});
}

}  // namespace

const PurityReading* carrier_in(const PuritySource& source, double carrier_hz) {
  const double within = frequency_tolerance_hz(carrier_hz) + 4.0 * source.resolution_hz;
  const PurityReading* best = nullptr;
  for (const PurityReading& r : source.readings) {
    if (r.is_bound || std::abs(r.frequency_hz - carrier_hz) > within) continue;
    if (best == nullptr || r.level_dbm > best->level_dbm) best = &r;
  }
  return best;
}

double frequency_tolerance_hz(double frequency_hz) {
  return 50e-6 * std::abs(frequency_hz);
}

void PuritySource::set_full_scale(double dbm) {
  if (is_absolute) return;
  is_absolute = true;
  for (PurityReading& r : readings) {
    r.level_dbm += dbm;
    r.floor_dbm += dbm;
  }
  for (SeenRange& range : seen) range.level_dbm += dbm;
  for (float& y : spectrum.y) y += static_cast<float>(dbm);
  spectrum.y_unit = "dBm";
}

std::optional<double> PuritySource::sees_from_dbm(double frequency_hz) const {
  std::optional<double> level;
  for (const SeenRange& range : seen) {
    if (frequency_hz >= range.from_hz && frequency_hz <= range.to_hz)
      level = std::min(level.value_or(range.level_dbm), range.level_dbm);
  }
  if (level || !seen.empty() || !covers(frequency_hz)) return level;
  // An old record: ten decibels over the highest floor that it names.
  for (const PurityReading& r : readings) {
    if (r.floor_dbm > -399.0) level = std::max(level.value_or(-400.0), r.floor_dbm + 10.0);
  }
  return level;
}

bool PuritySource::covers(double frequency_hz) const {
  return !is_typed && frequency_hz >= from_hz && frequency_hz <= to_hz;
}

PuritySource read_purity(const CaptureOpener& whole, const PurityReadingSettings& settings,
                         const Progress& progress, const std::stop_token& stop) {
  const CaptureInfo info = whole()->info();
  if (!(settings.carrier_hz > 0.0) || !std::isfinite(settings.carrier_hz))
    throw InputError(info.name, "carrier", "it is not a frequency above 0", "Give it in hertz");
  PuritySource source;
  source.name = info.name;
  MeasuredPart part = measured_part(whole, settings.part, settings.threads,
                                    progress_between(progress, 0.0, 0.2), stop);
  const CaptureOpener& open = part.open;
  source.duration_s = part.parts.measured.length_s;
  source.parts = std::move(part.parts);
  add_clipping(part.remarks, *source.parts, "makes lines of its own");
  for (Remark& remark : part.remarks) {
    remark.text = source.name + ": " + remark.text;
    source.remarks.push_back(std::move(remark));
  }
  source.is_absolute = settings.full_scale_dbm.has_value();
  const double full_scale = settings.full_scale_dbm.value_or(0.0);
  const double span = info.sample_rate_hz * (info.is_complex ? 1.0 : 0.5);
  const Spectrum s = spectrum_for_width(open, span, 65536.0, settings.threads,
                                        progress_between(progress, 0.2, 1.0), stop);
  source.resolution_hz = s.rbw_hz();
  // What a recorder's filter may bend near the ends of its band is left out.
  const double half = 0.45 * info.sample_rate_hz;
  source.from_hz = settings.center_hz + (info.is_complex ? -half : 4.0 * s.bin_hz());
  source.to_hz = settings.center_hz + half;
  source.spectrum = spectrum_curve(s, s.power, settings.plot_points);
  source.spectrum.x_start += settings.center_hz;
  source.spectrum.y_unit = source.is_absolute ? "dBm" : "dBFS";
  for (float& y : source.spectrum.y) y += static_cast<float>(full_scale);

  const std::vector<SpectralLine> found = find_lines(s, kMostLines);
  const WanderingLine carrier = strongest_line(s);
  note_wandering(source, carrier, s.bin_hz());
  const std::vector<SpectralLine> lines = lines_beside(s, found, carrier);
  std::vector<LineSpan> spans;
  for (const SpectralLine& line : lines)
    spans.push_back({line.frequency_hz, carrier.half_width_bins});
  for (const SpectralLine& line : lines) {
    const double rf = settings.center_hz + line.frequency_hz;
    if (!source.covers(rf)) continue;
    const int half_width = half_width_of(line, lines, carrier, s.bin_hz());
    PurityReading r =
        reading_of(measure_line(s, line.frequency_hz, half_width, spans), rf, full_scale);
    if (info.is_complex) r.doubt = doubt_about(line, lines, s.bin_hz(), settings.center_hz);
    source.readings.push_back(std::move(r));
  }
  fill_missing_harmonics(source, settings.carrier_hz, [&](double f) {
    return reading_of(measure_line(s, f - settings.center_hz, carrier.half_width_bins, spans), f,
                      full_scale);
  });
  const std::vector<float> least = least_line_power(s);
  // Weaker ones than the last of a full list were not read.
  const double weakest =
      found.size() < kMostLines ? -400.0 : db_from_power_ratio(found.back().power);
  // A line that wanders is as much lower as it is wider, and hides what stands beside it.
  const double spread_db =
      db_from_power_ratio(static_cast<double>(carrier.half_width_bins) / kLineHalfWidth);
  const double hidden_hz = carrier.is_steady() ? 0.0 : carrier.reach_hz(s.bin_hz());
  note_seen(source, [&](double from, double to) -> std::optional<double> {
    from -= settings.center_hz;
    to -= settings.center_hz;
    if (from < carrier.frequency_hz + hidden_hz && to > carrier.frequency_hz - hidden_hz &&
        !carrier.is_steady())
      return std::nullopt;
    return full_scale + spread_db + std::max(weakest, shown_from(s, least, from, to));
  });
  for (const std::string& text : info.cautions)
    source.remarks.push_back({"recording", Severity::caution, text + ".", ""});
  return source;
}

PuritySource read_purity(const SpectrumTrace& trace, const PurityReadingSettings& settings) {
  PuritySource source;
  const TraceReader reader(trace);
  const double spacing = trace.spacing_hz();
  source.name = trace.name;
  source.is_absolute = true;
  source.from_hz = trace.frequency_hz.front();
  source.to_hz = trace.frequency_hz.back();
  source.resolution_hz = reader.resolution_hz();
  source.spectrum.id = "spectrum";
  source.spectrum.label = trace.name;
  source.spectrum.x_unit = "Hz";
  source.spectrum.y_unit = "dBm";
  source.spectrum.x_start = trace.frequency_hz.front();
  source.spectrum.x_step = (trace.frequency_hz.back() - trace.frequency_hz.front()) /
                           static_cast<double>(trace.frequency_hz.size() - 1);
  for (std::size_t i = 0; i < trace.frequency_hz.size(); ++i) {
    const double hz = source.spectrum.x(i);
    source.spectrum.y.push_back(
        static_cast<float>(trace.level_dbm[reader.index_of(hz - 1e-6 * spacing)]));
  }
  const std::vector<TracePeak> lines = reader.lines(kMostLines);
  const auto reading_at = [&](double hz, double within_hz) {
    const TraceLine line = reader.measure(hz, within_hz, lines, settings.reading_u_db);
    PurityReading r;
    r.frequency_hz = line.frequency_hz;
    r.level_dbm = line.level_dbm;
    r.u_db = line.is_bound ? 0.0 : line.u_db;
    r.floor_dbm = line.floor_dbm;
    r.is_bound = line.is_bound;
    return r;
  };
  for (const TracePeak& line : lines) {
    PurityReading r = reading_at(line.frequency_hz, spacing);
    if (!r.is_bound) source.readings.push_back(std::move(r));
  }
  for (const TraceHump& hump : reader.humps(lines)) {
    PurityReading r;
    r.frequency_hz = hump.frequency_hz;
    r.level_dbm = hump.level_dbm;
    r.u_db = std::hypot(hump.u_db, settings.reading_u_db);
    r.is_wide = true;
    source.readings.push_back(std::move(r));
  }
  fill_missing_harmonics(source, settings.carrier_hz, [&](double f) {
    PurityReading r = reading_at(f, std::max(reader.rbw_hz() + spacing, frequency_tolerance_hz(f)));
    r.frequency_hz = f;
    return r;
  });
  std::vector<double> lines_hz;
  for (const TracePeak& line : lines) lines_hz.push_back(line.frequency_hz);
  const double over_floor = reader.line_threshold_db() + reader.hidden_db();
  note_seen(source, [&](double from, double to) -> std::optional<double> {
    const double floor = reader.floor_dbm((from + to) / 2.0, lines_hz);
    if (floor <= -399.0) return std::nullopt;
    return floor + over_floor;
  });
  if (const double flat_hz = reader.flat_top_hz(); flat_hz > 0.0 && !lines.empty())
    source.remarks.push_back(
        {"flat_top", Severity::caution,
         fmt::format("{}: the strongest line is flat on top over {}: the reference level or an "
                     "overload cut it off, or it moved while the trace was held. It is at least {} "
                     "dBm, and lines relative to it are at most what they read.",
                     source.name, engineering_text(flat_hz, "Hz", 2),
                     number_text(lines.front().level_dbm, 1)),
         "Raise the reference level or add attenuation, clear the hold, and measure it again"});
  if (!trace.rbw_hz)
    source.remarks.push_back(
        {"rbw_unknown", Severity::caution,
         fmt::format(
             "{}: it does not say its RBW: {} is used, from the width of its strongest line.",
             source.name, engineering_text(reader.rbw_hz(), "Hz", 3)),
         "Add a line such as # rbw: 10 kHz to the file"});
  if (spacing > reader.rbw_hz() && trace.detector != TraceDetector::peak)
    source.remarks.push_back(
        {"points_wide", Severity::caution,
         fmt::format("{}: points are {} apart, the RBW is {}: a line can hide between two points.",
                     source.name, engineering_text(spacing, "Hz", 3),
                     engineering_text(reader.rbw_hz(), "Hz", 3)),
         "Use more points, or several smaller spans"});
  return source;
}

}  // namespace heron
