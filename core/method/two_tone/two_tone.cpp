#include "core/method/two_tone/two_tone.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/plot_curve.h"
#include "core/method/two_tone/pair_choice.h"
#include "core/method/two_tone/product_meter.h"
#include "core/method/two_tone/tone_track.h"
#include "core/method/two_tone/two_tone_spectrum.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/rounding.h"

namespace heron {
namespace {

/// The strongest bin of a slice within +-reach of a frequency, as a frequency.
double strongest_near(const Spectrum& s, const std::vector<float>& power, double frequency_hz,
                      int reach) {
  const auto last = static_cast<std::ptrdiff_t>(power.size()) - 1;
  const auto centre = static_cast<std::ptrdiff_t>(std::lround(s.position(frequency_hz)));
  const auto from = std::clamp<std::ptrdiff_t>(centre - reach, 0, last);
  const auto to = std::clamp<std::ptrdiff_t>(centre + reach, 0, last);
  const auto peak = std::max_element(power.begin() + from, power.begin() + to + 1) - power.begin();
  double sum = 0.0;
  double moment = 0.0;
  for (auto k = std::max<std::ptrdiff_t>(0, peak - 2); k <= std::min(last, peak + 2); ++k) {
    sum += power[static_cast<std::size_t>(k)];
    moment += power[static_cast<std::size_t>(k)] * static_cast<double>(k - peak);
  }
  return s.frequency_hz(static_cast<std::size_t>(peak)) +
         (sum > 0.0 ? moment / sum : 0.0) * s.bin_hz();
}

TestTone test_tone(const LinePower& line, double frequency, double u_frequency) {
  TestTone tone;
  tone.frequency_hz = frequency;
  tone.u_frequency_hz = u_frequency;
  tone.level_dbfs = db_from_power_ratio(std::max(line.power, 1e-30));
  tone.u_db = relative_u_db(line);
  return tone;
}

double mean_of(const std::vector<double>& values) {
  double sum = 0.0;
  for (const double v : values) sum += v;
  return sum / static_cast<double>(values.size());
}

void require_tones_in_band(const TwoToneSettings& settings, const CaptureInfo& info) {
  if (!settings.tones_hz) return;
  for (const double f : {settings.tones_hz->first, settings.tones_hz->second}) {
    const bool inside = std::isfinite(f) && std::abs(f) < 0.49 * info.sample_rate_hz &&
                        (info.is_complex || f > 0.0);
    if (!inside) {
      throw InputError(info.name, fmt::format("tone {:g} Hz", f),
                       fmt::format("the recording covers {} {:g} Hz",
                                   info.is_complex ? "\u00b1" : "up to", info.sample_rate_hz / 2.0),
                       "Name the tones as they lie in the recording (0 Hz is its centre)");
    }
  }
  if (settings.tones_hz->first == settings.tones_hz->second) {
    throw InputError(info.name, "tones", "both tones have the same frequency",
                     "Name two different ones");
  }
}

void note_too_short(TwoToneAnalysis& a, double spacing_hz, double bin_hz) {
  const double needed = kSmallestSpacingBins / spacing_hz * 2.75;
  const std::string cause = a.drift_hz > bin_hz
                                ? fmt::format("the tones drift by {:.1f} Hz", a.drift_hz)
                                : fmt::format("{:.2g} s are too short", a.parts->measured.length_s);
  a.remarks.push_back(
      {"record_short", Severity::fault,
       fmt::format("The tones are {:.0f} Hz apart and {}: products cannot be told from the tones.",
                   spacing_hz, cause),
       a.drift_hz > bin_hz ? "Let the oscillators settle, then record again"
                           : fmt::format("Record at least {:.2g} s", needed)});
}

}  // namespace

TwoToneAnalysis analyse_two_tone(const CaptureOpener& whole, const TwoToneSettings& settings,
                                 const Progress& progress, const std::stop_token& stop) {
  TwoToneAnalysis a;
  a.capture = whole()->info();
  a.input = a.capture.name;
  a.full_scale_dbm = settings.full_scale_dbm;
  a.linearity.u_db = settings.linearity_u_db;
  a.carrier_hz = settings.carrier_hz;
  require_tones_in_band(settings, a.capture);

  MeasuredPart part = measured_part(whole, settings.part, settings.threads,
                                    progress_between(progress, 0.0, 0.2), stop);
  a.peak_dbfs = part.parts.peak > 0.0F ? db_from_voltage_ratio(part.parts.peak) : -200.0;
  a.clipped_samples = part.parts.clipped_samples;
  a.parts = std::move(part.parts);
  a.remarks = std::move(part.remarks);
  const TwoToneSpectrum seen_in =
      two_tone_spectrum(part.open, settings, progress_between(progress, 0.2, 1.0), stop);
  const Spectrum& spectrum = seen_in.spectrum;
  const auto& pair = seen_in.pair_hz;
  a.rbw_hz = spectrum.rbw_hz();
  a.window = window_name(spectrum.window);
  a.averages = spectrum.averages;
  a.spectrum = spectrum_curve(spectrum, spectrum.power, settings.plot_points);

  TwoToneObservations seen;
  if (!pair) {
    seen.rivals = seen_in.rivals;
    seen.missing_hz = seen_in.asked.missing_hz;
    seen.is_mirrored = seen_in.asked.is_mirrored;
    seen.reach_hz = seen_in.asked.reach_hz;
    for (const SpectralLine& line : seen_in.lines) {
      if (std::abs(line.frequency_hz) < 4.0 * spectrum.bin_hz()) continue;
      if (a.tones.empty()) {
        a.tones.push_back(
            {line.frequency_hz, spectrum.bin_hz(), db_from_power_ratio(line.power), 0.0});
      } else if (!seen.second_line_hz) {
        seen.second_line_hz = line.frequency_hz;
        seen.second_line_db = db_from_power_ratio(line.power) - a.tones[0].level_dbfs;
      }
    }
    add_two_tone_remarks(a, settings, seen);
    return a;
  }

  const std::vector<float>& first =
      spectrum.slices.empty() ? spectrum.power : spectrum.slices.front();
  const int reach =
      std::max(3, static_cast<int>(0.1 * (pair->second - pair->first) / spectrum.bin_hz()));
  const ToneTrack track =
      track_tones(seen_in.open, strongest_near(spectrum, first, pair->first, reach),
                  strongest_near(spectrum, first, pair->second, reach), kMoments, stop);
  a.drift_hz = std::max(track.range_of(1, 0), track.range_of(0, 1));
  ProductMeter meter(seen_in, track, settings.carrier_hz);
  const int tone_width = std::max(meter.half_width({1, 0}), meter.half_width({0, 1}));
  const LinePower line_1 = meter.at(meter.signed_frequency({1, 0}), tone_width);
  const LinePower line_2 = meter.at(meter.signed_frequency({0, 1}), tone_width);
  a.tones.push_back(test_tone(line_1, mean_of(track.f1_hz), track.u_f1_hz));
  a.tones.push_back(test_tone(line_2, mean_of(track.f2_hz), track.u_f2_hz));
  const double rounding =
      rounding_on_a_line(a.capture, spectrum, {track.middle_of(1, 0), track.middle_of(0, 1)},
                         std::sqrt(std::max(0.0, std::min(line_1.power, line_2.power))));
  meter.set_rounding(rounding);
  a.set_references();

  const double spacing = track.middle_of(-1, 1);
  if (line_1.is_bound || line_2.is_bound) {
    a.tones.clear();
    add_two_tone_remarks(a, settings, seen);
    return a;
  }
  if (spacing / spectrum.bin_hz() <
      std::max(kSmallestSpacingBins, 2.0 * meter.half_width(product_place(3, Side::upper)) + 4.0)) {
    note_too_short(a, spacing, spectrum.bin_hz());
    add_two_tone_remarks(a, settings, seen);
    return a;
  }
  if (a.rbw_hz > 2.5 * settings.target_rbw_hz)
    a.remarks.push_back(
        {"resolution_coarse", Severity::note,
         fmt::format("{} s of signal give an RBW of {} Hz instead of {} Hz.",
                     number_text(a.parts->measured.length_s, 2), number_text(a.rbw_hz, 0),
                     number_text(settings.target_rbw_hz, 0)),
         fmt::format(
             "Record at least {} s of signal",
             number_text(2.75 * 2.0 * enbw_bins(spectrum.window) / settings.target_rbw_hz, 1))});
  const double one_tone = power_ratio_from_db(a.one_tone_dbfs);
  if (rounding > 0.0) {
    seen.rounding_dbc = db_from_power_ratio(rounding / one_tone);
    seen.steps_of_a_tone = 2.0 * std::sqrt(one_tone) * std::ldexp(1.0, a.capture.bits - 1);
  }
  const double tone_u_db =
      kDbPerRelativePower * std::hypot(line_1.u_power, line_2.u_power) / 2.0 / one_tone;
  measure_products(a, meter, settings.highest_order, one_tone, tone_u_db, seen, stop);
  measure_surroundings(a, meter, settings.carrier_hz, one_tone, seen);
  add_two_tone_remarks(a, settings, seen);
  return a;
}

}  // namespace heron
