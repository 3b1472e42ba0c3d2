#include "core/method/two_tone.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/line_power.h"
#include "core/method/plot_curve.h"
#include "core/method/tone_finder.h"
#include "core/method/tone_track.h"
#include "core/method/two_tone_remarks.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr int kMainLobe = 4;               // Blackman-Harris, bins
constexpr double kSmallestSpacing = 12.0;  // bins between tones, to leave noise between the lobes
constexpr std::size_t kMoments = 16;
constexpr double kDbPerNeper = 4.342944819;  // d(10 lg x) = 4.343 dx / x

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

/// A place in the spectrum by how it follows the two tones: a f1 + b f2.
struct Place {
  double a;
  double b;
};

Place product_place(int order, Side side) {
  const int k = (order + 1) / 2;
  return side == Side::lower ? Place{static_cast<double>(k), -static_cast<double>(k - 1)}
                             : Place{-static_cast<double>(k - 1), static_cast<double>(k)};
}

/// Everything measured against one averaged spectrum and one track of the tones.
class ProductMeter {
 public:
  ProductMeter(const Spectrum& spectrum, const ToneTrack& track, const TwoToneSettings& settings)
      : s_(spectrum), track_(track), carrier_hz_(settings.carrier_hz) {
    for (int order = 1; order <= 15; order += 2) {
      for (const Side side : {Side::lower, Side::upper}) {
        const Place place = product_place(order, side);
        lines_.push_back({heard_at(signed_frequency(place)), half_width(place)});
      }
    }
    lines_.push_back({heard_at(carrier_hz_), kMainLobe});
    lines_.push_back({0.0, kMainLobe});
    if (s_.is_complex) {
      for (const Place tone : {Place{1, 0}, Place{0, 1}})
        lines_.push_back({-signed_frequency(tone), half_width(tone)});
    }
  }

  double signed_frequency(Place p) const { return track_.middle_of(p.a, p.b); }
  double heard_at(double frequency_hz) const {
    return s_.is_complex ? frequency_hz : std::abs(frequency_hz);
  }
  int half_width(Place p) const {
    return kMainLobe +
           static_cast<int>(std::ceil(track_.range_of(p.a, p.b) / 2.0 / s_.bin_hz() - 0.05));
  }
  bool is_inside(double frequency_hz, int half_width_bins) const {
    const double position = s_.position(heard_at(frequency_hz));
    const double edge = half_width_bins + 8.0;
    // The outer 2 % of a sampler's band are behind its own filter.
    const double usable = s_.sample_rate_hz * 0.48;
    return std::abs(frequency_hz) < usable &&
           position > (s_.is_complex ? edge : half_width_bins + 1.0) &&
           position < static_cast<double>(s_.power.size()) - edge;
  }
  LinePower at(double frequency_hz, int half_width_bins) const {
    return measure_line(s_, heard_at(frequency_hz), half_width_bins, lines_);
  }
  /// Name of a fixed line that a product lies on; empty if none.
  std::string covering(double frequency_hz, int half_width_bins) const {
    const double reach = (half_width_bins + kMainLobe) * s_.bin_hz();
    const auto near = [&](double f) { return std::abs(heard_at(frequency_hz) - f) < reach; };
    if (near(heard_at(carrier_hz_))) return "the carrier";
    if (near(0.0)) return "0 Hz";
    if (!s_.is_complex) return {};
    for (const Place tone : {Place{1, 0}, Place{0, 1}}) {
      if (near(-signed_frequency(tone))) return "the image of a tone";
    }
    return {};
  }

 private:
  const Spectrum& s_;
  const ToneTrack& track_;
  double carrier_hz_;
  std::vector<LineSpan> lines_;
};

double relative_u_db(const LinePower& line) {
  return kDbPerNeper * line.u_power / std::max(line.power, 1e-300);
}

void measure_products(TwoToneAnalysis& a, const ProductMeter& meter,
                      const TwoToneSettings& settings, double one_tone, double tone_u_db,
                      TwoToneObservations& seen) {
  const double pep_over_tone = a.pep_over_tone_db();
  for (int order = 3; order <= settings.highest_order; order += 2) {
    for (const Side side : {Side::lower, Side::upper}) {
      const Place place = product_place(order, side);
      const double frequency = meter.signed_frequency(place);
      const int half_width = meter.half_width(place);
      if (!meter.is_inside(frequency, half_width)) continue;
      const LinePower line = meter.at(frequency, half_width);
      TwoToneProduct p;
      p.order = order;
      p.side = side;
      p.frequency_hz = frequency;
      p.is_bound = line.is_bound;
      const double power = line.is_bound ? line.upper_power : line.power;
      p.level_dbc = db_from_power_ratio(std::max(power, 1e-30) / one_tone);
      p.level_db_pep = to_pep(DbOneTone{p.level_dbc}, Db{pep_over_tone}).value;
      p.u_db = line.is_bound ? 0.0 : std::hypot(relative_u_db(line), tone_u_db);
      p.floor_dbc = db_from_power_ratio(std::max(line.noise_rbw, 1e-30) / one_tone);
      const std::string cover = meter.covering(frequency, half_width);
      if (!cover.empty()) {
        // Two lines in one place: together they are only a limit for the product.
        if (!p.is_bound) {
          p.level_dbc = db_from_power_ratio(line.upper_power / one_tone);
          p.level_db_pep = to_pep(DbOneTone{p.level_dbc}, Db{pep_over_tone}).value;
          p.u_db = 0.0;
          p.is_bound = true;
          seen.covered.push_back(product_name(p) + " lies on " + cover +
                                 ": the two cannot be told apart, so it is an upper bound.");
        }
      }
      a.products.push_back(p);
    }
  }
}

void measure_surroundings(TwoToneAnalysis& a, const ProductMeter& meter,
                          const TwoToneSettings& settings, double one_tone,
                          TwoToneObservations& seen) {
  const auto dbc = [&](const LinePower& line) {
    return db_from_power_ratio(std::max(line.is_bound ? line.upper_power : line.power, 1e-30) /
                               one_tone);
  };
  if (meter.is_inside(settings.carrier_hz, kMainLobe))
    a.carrier_dbc = dbc(meter.at(settings.carrier_hz, kMainLobe));

  const double f1 = a.tones[0].frequency_hz;
  const double f2 = a.tones[1].frequency_hz;
  const double spacing = f2 - f1;
  double floor = 0.0;
  std::vector<double> floors;
  for (const TwoToneProduct& p : a.products) floors.push_back(p.floor_dbc);
  if (floors.empty()) return;
  std::nth_element(floors.begin(), floors.begin() + static_cast<std::ptrdiff_t>(floors.size() / 2),
                   floors.end());
  floor = floors[floors.size() / 2];

  if (a.capture.is_complex) {
    for (const double f : {f1, f2}) {
      // An image that coincides with a tone or product cannot be seen as an image.
      const double k = (-f - f1) / spacing;
      if (std::abs(k - std::round(k)) * spacing < 2.0 * kMainLobe * a.rbw_hz) continue;
      if (!meter.is_inside(-f, kMainLobe)) continue;
      const LinePower line = meter.at(-f, kMainLobe);
      if (!line.is_bound) a.image_dbc = std::max(a.image_dbc.value_or(-300.0), dbc(line));
    }
  }
  // Clipping leaves no range that could be vouched for.
  if (a.clipped_samples == 0) {
    a.usable_dynamic_range_db = -std::max(floor, a.image_dbc.value_or(-300.0));
  }

  for (const double offset : {50.0, 60.0, 100.0, 120.0}) {
    if (offset < 3.0 * kMainLobe * a.rbw_hz / 2.0 || offset > spacing / 2.5) continue;
    for (const double f : {f1 - offset, f1 + offset, f2 - offset, f2 + offset}) {
      if (!meter.is_inside(f, kMainLobe) || !meter.covering(f, kMainLobe).empty()) continue;
      const LinePower line = meter.at(f, kMainLobe);
      if (line.is_bound || dbc(line) < floor + 10.0) continue;
      if (!seen.hum_dbc || dbc(line) > *seen.hum_dbc) {
        seen.hum_dbc = dbc(line);
        seen.hum_offset_hz = offset;
      }
    }
  }
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

const TwoToneProduct* TwoToneAnalysis::worst() const {
  const auto found =
      std::max_element(products.begin(), products.end(),
                       [](const auto& a, const auto& b) { return a.level_dbc < b.level_dbc; });
  return found == products.end() ? nullptr : &*found;
}

const TwoToneProduct* TwoToneAnalysis::find(int order, Side side) const {
  const auto found = std::find_if(products.begin(), products.end(), [&](const TwoToneProduct& p) {
    return p.order == order && p.side == side;
  });
  return found == products.end() ? nullptr : &*found;
}

const TwoToneProduct* TwoToneAnalysis::worse_side(int order) const {
  const TwoToneProduct* lower = find(order, Side::lower);
  const TwoToneProduct* upper = find(order, Side::upper);
  if (lower == nullptr || upper == nullptr) return lower == nullptr ? upper : lower;
  return lower->level_dbc > upper->level_dbc ? lower : upper;
}

std::string product_name(const TwoToneProduct& product) {
  return fmt::format("IM{} {}", product.order, product.side == Side::lower ? "lower" : "upper");
}

std::string ordinal(int order) {
  return order == 3 ? "3rd" : fmt::format("{}th", order);
}

Figure product_figure(const TwoToneAnalysis& a, const TwoToneProduct& p,
                      const std::string& convention) {
  Figure figure;
  figure.id = fmt::format("im{}_{}", p.order, p.side == Side::lower ? "lower" : "upper");
  figure.label = product_name(p);
  figure.unit = "dB";
  figure.convention = convention;
  figure.value = convention == kRePep ? p.level_db_pep : p.level_dbc;
  if (p.is_bound) {
    figure.bound = Bound::upper;
    return figure;
  }
  figure.contributions.push_back({"noise in the recording", p.u_db, Scope::independent});
  if (a.linearity_u_db > 0.0) {
    figure.contributions.push_back({"recorder linearity", a.linearity_u_db, Scope::common});
  }
  return figure;
}

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
      } else if (seen.second_line_db == 0.0) {
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
  const ProductMeter meter(spectrum, track, settings);
  const int tone_width = std::max(meter.half_width({1, 0}), meter.half_width({0, 1}));
  const LinePower line_1 = meter.at(meter.signed_frequency({1, 0}), tone_width);
  const LinePower line_2 = meter.at(meter.signed_frequency({0, 1}), tone_width);
  a.tones.push_back(test_tone(line_1, mean_of(track.f1_hz), track.u_f1_hz));
  a.tones.push_back(test_tone(line_2, mean_of(track.f2_hz), track.u_f2_hz));
  const double p1 = std::max(line_1.power, 1e-30);
  const double p2 = std::max(line_2.power, 1e-30);
  const double one_tone = (p1 + p2) / 2.0;
  a.one_tone_dbfs = db_from_power_ratio(one_tone);
  a.pep_dbfs = a.one_tone_dbfs + pep_over_one_tone(std::sqrt(p2 / p1)).value;

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
  const double tone_u_db =
      kDbPerNeper * std::hypot(line_1.u_power, line_2.u_power) / 2.0 / one_tone;
  measure_products(a, meter, settings, one_tone, tone_u_db, seen);
  measure_surroundings(a, meter, settings, one_tone, seen);
  add_two_tone_remarks(a, settings, seen);
  return a;
}

Result to_result(const TwoToneAnalysis& a, const std::string& convention) {
  Result result;
  result.method = "two_tone";
  result.inputs = {a.input};
  const TwoToneProduct* worst = a.worst();
  if (worst != nullptr) {
    Figure figure = product_figure(a, *worst, convention);
    figure.id = "worst";
    figure.label = "Worst product, " + product_name(*worst);
    result.figures.push_back(figure);
    result.headline_id = "worst";
  }
  if (a.tones.size() == 2) {
    Figure pep;
    pep.id = "pep";
    pep.label = "Peak envelope power";
    pep.value = a.pep_dbfs + a.full_scale_dbm.value_or(0.0);
    pep.unit = a.full_scale_dbm ? "dBm" : "dBFS";
    pep.convention = "PEP";
    pep.contributions.push_back({"noise in the recording",
                                 std::hypot(a.tones[0].u_db, a.tones[1].u_db) / 2.0,
                                 Scope::independent});
    result.figures.push_back(pep);
  }
  for (const TwoToneProduct& p : a.products)
    result.figures.push_back(product_figure(a, p, convention));
  result.curves.push_back(a.spectrum);
  result.remarks = a.remarks;
  return result;
}

Limit in_convention(const Limit& limit, const std::string& convention, double pep_over_tone_db) {
  Limit converted = limit;
  if (limit.convention == convention) return converted;
  const Db ratio{pep_over_tone_db};
  if (limit.convention == kReOneTone && convention == kRePep) {
    converted.value = to_pep(DbOneTone{limit.value}, ratio).value;
  } else if (limit.convention == kRePep && convention == kReOneTone) {
    converted.value = to_one_tone(DbPep{limit.value}, ratio).value;
  } else {
    throw InputError("limit \u201c" + limit.name + "\u201d", "",
                     "its convention is not one of intermodulation", "Use re one tone or re PEP");
  }
  converted.convention = convention;
  return converted;
}

}  // namespace heron
