#include "core/method/product_meter.h"

#include <algorithm>
#include <cmath>

#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr int kMainLobe = ProductMeter::kMainLobe;

}  // namespace

Place product_place(int order, Side side) {
  const int k = (order + 1) / 2;
  return side == Side::lower ? Place{static_cast<double>(k), -static_cast<double>(k - 1)}
                             : Place{-static_cast<double>(k - 1), static_cast<double>(k)};
}

ProductMeter::ProductMeter(const Spectrum& spectrum, const ToneTrack& track, double carrier_hz)
    : s_(spectrum), track_(track), carrier_hz_(carrier_hz) {
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

double ProductMeter::heard_at(double frequency_hz) const {
  return s_.is_complex ? frequency_hz : std::abs(frequency_hz);
}

int ProductMeter::half_width(Place p) const {
  return kMainLobe +
         static_cast<int>(std::ceil(track_.range_of(p.a, p.b) / 2.0 / s_.bin_hz() - 0.05));
}

bool ProductMeter::is_inside(double frequency_hz, int half_width_bins) const {
  const double position = s_.position(heard_at(frequency_hz));
  const double edge = half_width_bins + 8.0;
  // The outer 2 % of a sampler's band are behind its own filter.
  const double usable = s_.sample_rate_hz * 0.48;
  return std::abs(frequency_hz) < usable &&
         position > (s_.is_complex ? edge : half_width_bins + 1.0) &&
         position < static_cast<double>(s_.power.size()) - edge;
}

LinePower ProductMeter::at(double frequency_hz, int half_width_bins) const {
  return measure_line(s_, heard_at(frequency_hz), half_width_bins, lines_);
}

std::string ProductMeter::covering(double frequency_hz, int half_width_bins) const {
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

double relative_u_db(const LinePower& line) {
  return kDbPerRelativePower * line.u_power / std::max(line.power, 1e-300);
}

void measure_products(TwoToneAnalysis& a, const ProductMeter& meter, int highest_order,
                      double one_tone, double tone_u_db, TwoToneObservations& seen) {
  const double pep_over_tone = a.pep_over_tone_db();
  for (int order = 3; order <= highest_order; order += 2) {
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

void measure_surroundings(TwoToneAnalysis& a, const ProductMeter& meter, double carrier_hz,
                          double one_tone, TwoToneObservations& seen) {
  const auto dbc = [&](const LinePower& line) {
    return db_from_power_ratio(std::max(line.is_bound ? line.upper_power : line.power, 1e-30) /
                               one_tone);
  };
  if (meter.is_inside(carrier_hz, kMainLobe)) a.carrier_dbc = dbc(meter.at(carrier_hz, kMainLobe));

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

}  // namespace heron
