#include "core/method/phase_noise/noise_capture.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <numbers>

#include "core/error.h"
#include "core/method/measure/carrier_capture.h"
#include "core/method/measure/noise_cascade.h"
#include "core/method/measure/phase_stream.h"
#include "core/method/phase_noise/curve_bins.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kMostLost = 0.2;
constexpr double kStrongAmDb = 6.0;  ///< nearer to the phase noise than this it is worth a word
constexpr double kOverFloorDb = 10.0;
constexpr double kSameDb = 2.0;  ///< phase and amplitude of one line

/// Density of phase from that of its steps.
FineSpectrum fine(const StageSpectrum& s, const std::vector<double>& density, double step_rate_hz,
                  double length_s) {
  FineSpectrum f;
  f.bin_hz = s.bin_hz();
  f.low_hz = s.low_hz;
  f.high_hz = s.high_hz;
  f.averages = s.statistics.k_eff;
  f.effective_s = std::min(length_s, s.statistics.effective_samples / s.rate_hz);
  f.bin_correlation.assign(std::begin(s.statistics.bin_correlation),
                           std::end(s.statistics.bin_correlation));
  f.density = density;
  if (step_rate_hz > 0.0) {
    for (std::size_t k = 1; k < f.density.size(); ++k) {
      const double h =
          2.0 * std::sin(std::numbers::pi * static_cast<double>(k) * f.bin_hz / step_rate_hz);
      f.density[k] /= h * h;
    }
    f.density[0] = f.density.size() > 1 ? f.density[1] : 0.0;
  }
  return f;
}

/// Lines that amplitude and phase share are on one side only.
bool is_one_sided(const FineLine& line, const std::vector<FineSpectrum>& phase,
                  const std::vector<FineSpectrum>& amplitude) {
  const FineSpectrum& a = amplitude[line.stage];
  double power = 0.0;
  for (std::size_t k = line.from; k < line.to; ++k) power += a.density[k] * a.bin_hz;
  const std::size_t lobe = line.to - line.from;
  double noise = 0.0;
  for (std::size_t k = 0; k < lobe; ++k) {
    const std::size_t below = line.from > lobe ? line.from - lobe + k : line.to + k;
    noise += a.density[std::min(below, a.density.size() - 1)] * a.bin_hz;
  }
  const double own = power - noise;
  if (!(own > 0.0) || !(line.variance > 0.0) || phase.empty()) return false;
  return std::abs(db_from_power_ratio(own / line.variance)) < kSameDb;
}

void remark(NoiseCurve& curve, const PhaseStream& stream, const CarrierCapture& p,
            const CaptureInfo& info) {
  const auto say = [&](const char* code, Severity severity, std::string text, std::string todo) {
    curve.remarks.push_back({code, severity, std::move(text), std::move(todo)});
  };
  if (stream.lost > 0)
    say("carrier_lost", Severity::caution,
        fmt::format("The carrier is lost in {} % of the recording, first at {} s: that is left "
                    "out.",
                    number_text(100.0 * static_cast<double>(stream.lost) /
                                    static_cast<double>(std::max<std::int64_t>(1, stream.frames)),
                                1),
                    number_text(stream.first_lost_s, 2)),
        "Look whether the loop unlocks, or a cable moves");
  const NoiseSpur* centre = nullptr;
  for (const NoiseSpur& s : curve.spurs)
    if (info.is_complex && std::abs(s.offset_hz - std::abs(p.frequency_hz)) < 0.002 * s.offset_hz)
      centre = &s;
  if (centre != nullptr && centre->is_one_sided)
    say("recorder_centre", Severity::note,
        fmt::format("The line at {} is the recorder\u2019s own centre.",
                    frequency_text(centre->offset_hz)),
        "Tune the recorder elsewhere to move it");
  // Noise that is only added is as much in the one as in the other: far out that is no finding.
  double least = 1e9;
  for (const CurvePoint& l : curve.points) least = std::min(least, l.l_dbc_hz);
  const auto strong = std::find_if(curve.am.begin(), curve.am.end(), [&](const CurvePoint& a) {
    const auto l = curve_at(curve.points, a.offset_hz);
    return l && l->l_dbc_hz > least + kOverFloorDb && a.l_dbc_hz > l->l_dbc_hz - kStrongAmDb;
  });
  if (strong != curve.am.end())
    say("am_strong", Severity::caution,
        fmt::format("At {} amplitude noise is {} dBc/Hz, within 6 dB of the phase noise: an "
                    "analyser would show both together.",
                    frequency_text(strong->offset_hz), number_text(strong->l_dbc_hz, 0)),
        "Look at the supply, and whether a stage is driven too little to limit");
}

}  // namespace

NoiseCurve noise_of_capture(const CaptureOpener& open, const NoiseWish& wish,
                            const Progress& progress, const std::stop_token& stop) {
  const CaptureInfo info = open()->info();
  const CarrierCapture p = carrier_capture(open, stop);
  const CaptureInfo used = p.open()->info();
  NoiseCascade cascade(used.sample_rate_hz, used.frames, p.top_hz);
  const PhaseStream stream = follow_phase(
      p.open, p.carrier, [&](std::span<const std::complex<float>> x) { cascade.push(x); },
      [&](std::int64_t) { cascade.gap(); }, progress, stop);
  if (static_cast<double>(stream.lost) > kMostLost * static_cast<double>(stream.frames))
    throw InputError(info.name, "",
                     fmt::format("its carrier is lost in {} % of it, first at {} s",
                                 number_text(100.0 * static_cast<double>(stream.lost) /
                                                 static_cast<double>(stream.frames),
                                             0),
                                 number_text(stream.first_lost_s, 2)),
                     "Record it again with a steady carrier");
  const double length_s = static_cast<double>(stream.frames - stream.lost) / used.sample_rate_hz;
  std::vector<FineSpectrum> phase;
  std::vector<FineSpectrum> amplitude;
  for (const StageSpectrum& s : cascade.spectra()) {
    phase.push_back(fine(s, s.real, used.sample_rate_hz, length_s));
    amplitude.push_back(fine(s, s.imaginary, 0.0, length_s));
  }
  if (phase.empty())
    throw InputError(info.name, "", "no stretch of it is long enough",
                     "Record a steady carrier for a second or more");
  NoiseCurve curve;
  curve.name = info.name;
  curve.per_decade = wish.per_decade;
  curve.length_s = length_s;
  curve.carrier_hz =
      info.is_complex ? stream.mean_hz : p.frequency_hz - p.carrier.frequency_hz + stream.mean_hz;
  if (info.center_hz) curve.rf_hz = *info.center_hz + *curve.carrier_hz;
  curve.level_dbfs = db_from_power_ratio(p.carrier.amplitude * p.carrier.amplitude);
  const std::vector<FineLine> lines = find_lines(phase);
  curve.points = log_bins(phase, lines, wish.per_decade);
  curve.am = log_bins(amplitude, find_lines(amplitude), wish.per_decade);
  for (const FineLine& line : lines) {
    NoiseSpur spur;
    spur.offset_hz = line.offset_hz;
    // Half the index squared is the variance; each sideband has half of that.
    spur.level_dbc = db_from_power_ratio(std::max(line.variance / 2.0, 1e-300));
    spur.u_db = line.u_db;
    spur.is_one_sided = is_one_sided(line, phase, amplitude);
    curve.spurs.push_back(spur);
  }
  if (curve.points.empty())
    throw InputError(info.name, "", "it is too short for a curve",
                     "Record at least a second, or choose fewer bins a decade");
  remark(curve, stream, p, info);
  return curve;
}

}  // namespace heron
