#include "core/method/two_tone.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/plot_curve.h"
#include "core/method/product_meter.h"
#include "core/method/tone_finder.h"
#include "core/method/tone_track.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kSmallestSpacing = 12.0;  // bins between tones, to leave noise between the lobes
constexpr std::size_t kMoments = 16;

std::size_t power_of_two_at_least(double n) {
  std::size_t size = 256;
  while (static_cast<double>(size) < n && size < (1U << 21U)) size *= 2;
  return size;
}

/// Segment that gives the wished resolution, or as long as leaves eight or more overlapped
/// averages.
std::size_t segment_for(const CaptureInfo& info, double rbw_hz) {
  std::size_t size = power_of_two_at_least(enbw_bins(WindowKind::blackman_harris_4) *
                                           info.sample_rate_hz / rbw_hz);
  while (size > 256 && static_cast<double>(size) * 2.75 > static_cast<double>(info.frames))
    size /= 2;
  return size;
}

Spectrum take_spectrum(const CaptureOpener& open, std::size_t segment,
                       const TwoToneSettings& settings, std::int64_t frames,
                       const Progress& progress, const std::stop_token& stop) {
  WelchSettings welch;
  welch.segment = segment;
  welch.threads = settings.threads;
  welch.slices = kMoments;
  // Planning thoroughly takes a second: worth it from some ten million samples on.
  welch.effort = frames > 12'000'000 ? PlanEffort::thorough : PlanEffort::quick;
  return welch_spectrum(open, welch, progress, stop);
}

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

using PairHz = std::pair<double, double>;

std::optional<PairHz> pair_in(const Spectrum& spectrum, const TwoToneSettings& settings,
                              const std::vector<SpectralLine>& lines) {
  if (settings.tones_hz) {
    const auto [a, b] = *settings.tones_hz;
    return PairHz{std::min(a, b), std::max(a, b)};
  }
  if (const auto pair = choose_tone_pair(spectrum, lines))
    return PairHz{pair->first.frequency_hz, pair->second.frequency_hz};
  return std::nullopt;
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
  const double needed = kSmallestSpacing / spacing_hz * 2.75;
  const std::string cause = a.drift_hz > bin_hz
                                ? fmt::format("the tones drift by {:.1f} Hz", a.drift_hz)
                                : fmt::format("{:.2g} s are too short", a.capture.duration_s());
  a.remarks.push_back(
      {"record_short", Severity::fault,
       fmt::format("The tones are {:.0f} Hz apart and {}: products cannot be told from the tones.",
                   spacing_hz, cause),
       a.drift_hz > bin_hz ? "Let the oscillators settle, then record again"
                           : fmt::format("Record at least {:.2g} s", needed)});
}

}  // namespace

TwoToneAnalysis analyse_two_tone(const CaptureOpener& open, const TwoToneSettings& settings,
                                 const Progress& progress, const std::stop_token& stop) {
  TwoToneAnalysis a;
  a.capture = open()->info();
  a.input = a.capture.name;
  a.full_scale_dbm = settings.full_scale_dbm;
  a.linearity_u_db = settings.linearity_u_db;
  a.carrier_hz = settings.carrier_hz;
  require_tones_in_band(settings, a.capture);

  std::size_t segment = segment_for(a.capture, settings.target_rbw_hz);
  Spectrum spectrum = take_spectrum(open, segment, settings, a.capture.frames, progress, stop);
  std::vector<SpectralLine> lines = find_lines(spectrum);
  std::optional<PairHz> pair = pair_in(spectrum, settings, lines);
  // Tones close together need a finer resolution than was wished for, at the price of averages;
  // what looks like one tone in a coarse spectrum may be two.
  const auto is_coarse = [&] {
    if (pair) return (pair->second - pair->first) / spectrum.bin_hz() < 3.0 * kSmallestSpacing;
    return !lines.empty() && spectrum.bin_hz() > 8.0;
  };
  while (is_coarse() &&
         static_cast<double>(segment) * 2.0 * 1.5 <= static_cast<double>(a.capture.frames) &&
         segment < (1U << 21U)) {
    segment *= 2;
    spectrum = take_spectrum(open, segment, settings, a.capture.frames, progress, stop);
    lines = find_lines(spectrum);
    pair = pair_in(spectrum, settings, lines);
  }
  a.rbw_hz = spectrum.rbw_hz();
  a.window = window_name(spectrum.window);
  a.averages = spectrum.averages;
  a.peak_dbfs =
      spectrum.peak_component > 0.0F ? db_from_voltage_ratio(spectrum.peak_component) : -200.0;
  a.clipped_samples = spectrum.clipped_samples;
  a.spectrum = spectrum_curve(spectrum, spectrum.power, settings.plot_points);

  TwoToneObservations seen;
  if (!pair) {
    for (const SpectralLine& line : lines) {
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
      track_tones(open, strongest_near(spectrum, first, pair->first, reach),
                  strongest_near(spectrum, first, pair->second, reach), kMoments, stop);
  a.drift_hz = std::max(track.range_of(1, 0), track.range_of(0, 1));
  const ProductMeter meter(spectrum, track, settings.carrier_hz);
  const int tone_width = std::max(meter.half_width({1, 0}), meter.half_width({0, 1}));
  const LinePower line_1 = meter.at(meter.signed_frequency({1, 0}), tone_width);
  const LinePower line_2 = meter.at(meter.signed_frequency({0, 1}), tone_width);
  a.tones.push_back(test_tone(line_1, mean_of(track.f1_hz), track.u_f1_hz));
  a.tones.push_back(test_tone(line_2, mean_of(track.f2_hz), track.u_f2_hz));
  a.set_references();

  const double spacing = track.middle_of(-1, 1);
  if (line_1.is_bound || line_2.is_bound) {
    a.tones.clear();
    add_two_tone_remarks(a, settings, seen);
    return a;
  }
  if (spacing / spectrum.bin_hz() <
      std::max(kSmallestSpacing, 2.0 * meter.half_width(product_place(3, Side::upper)) + 4.0)) {
    note_too_short(a, spacing, spectrum.bin_hz());
    add_two_tone_remarks(a, settings, seen);
    return a;
  }
  const double one_tone = power_ratio_from_db(a.one_tone_dbfs);
  const double tone_u_db =
      kDbPerRelativePower * std::hypot(line_1.u_power, line_2.u_power) / 2.0 / one_tone;
  measure_products(a, meter, settings.highest_order, one_tone, tone_u_db, seen);
  measure_surroundings(a, meter, settings.carrier_hz, one_tone, seen);
  add_two_tone_remarks(a, settings, seen);
  return a;
}

}  // namespace heron
