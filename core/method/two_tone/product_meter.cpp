#include "core/method/two_tone/product_meter.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/two_tone/close_lines.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr int kMainLobe = ProductMeter::kMainLobe;
/// Products of higher order outside the recording need no word.
constexpr int kNamedOrders = 7;
/// A product that stands so much above an image on it is measured, with the image in its scatter.
constexpr double kOverImage = 10.0;

std::string covered_text(const std::string& product, const ProductMeter::Neighbour& neighbour,
                         bool may_cancel) {
  const double needed = seconds_to_part(std::max(neighbour.distance_hz, 1e-6));
  const std::string how = needed < 3600.0
                              ? fmt::format("{} s of recording would resolve them",
                                            number_text(needed * 1.1, needed < 10.0 ? 1 : 0))
                              : std::string("no recording resolves them");
  return fmt::format(
      "{} lies {} Hz from {}: {}; {}.", product,
      number_text(neighbour.distance_hz, neighbour.distance_hz < 10.0 ? 2 : 0), neighbour.name,
      may_cancel ? "they add or cancel, so that their sum and 6 dB is the upper bound"
                 : "together they are an upper bound",
      how);
}

/// At most how strong a tone's image is relative to the tone: from one that stands alone, or from
/// the weaker of those that stand on products. nullopt for audio.
std::optional<double> image_ratio(const std::vector<ProductMeter::ToneImage>& images,
                                  const std::vector<TestTone>& tones) {
  std::optional<double> alone;
  std::optional<double> together;
  for (const ProductMeter::ToneImage& image : images) {
    const double tone = power_ratio_from_db(tones[image.tone].level_dbfs);
    const double ratio = (image.line.is_bound ? image.line.upper_power : image.line.power) / tone;
    if (image.is_alone) alone = std::max(alone.value_or(0.0), ratio);
    // The weaker of two sums holds no more image than this; over frequency it varies a little.
    if (!image.is_alone) together = std::min(together.value_or(2.0 * ratio), 2.0 * ratio);
  }
  return alone ? alone : together;
}

}  // namespace

Place product_place(int order, Side side) {
  const int k = (order + 1) / 2;
  return side == Side::lower ? Place{static_cast<double>(k), -static_cast<double>(k - 1)}
                             : Place{-static_cast<double>(k - 1), static_cast<double>(k)};
}

ProductMeter::ProductMeter(const TwoToneSpectrum& seen, const ToneTrack& track, double carrier_hz)
    : seen_(seen), s_(seen.spectrum), track_(track) {
  known_.push_back({"the lower tone", {1.0, 0.0}});
  known_.push_back({"the upper tone", {0.0, 1.0}});
  for (int order = 3; order <= 15; order += 2) {
    for (const Side side : {Side::lower, Side::upper}) {
      TwoToneProduct product;
      product.order = order;
      product.side = side;
      known_.push_back({product_name(product), product_place(order, side), 0.0, false, order <= 7});
    }
  }
  known_.push_back({"the carrier", {0.0, 0.0}, carrier_hz});
  if (carrier_hz != 0.0) known_.push_back({"0 Hz", {0.0, 0.0}, 0.0});
  if (s_.is_complex) {
    known_.push_back({"the image of a tone", {1.0, 0.0}, 0.0, true});
    known_.push_back({"the image of a tone", {0.0, 1.0}, 0.0, true});
  }
  for (const Known& line : known_)
    lines_.push_back({frequency_of(line, 0.5), half_width(line.place)});
}

double ProductMeter::frequency_of(const Known& line, double fraction) const {
  const double f = line.offset_hz + track_.at(fraction, line.place.a, line.place.b);
  return heard_at(line.is_mirrored ? -f : f);
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
  return std::abs(frequency_hz) < seen_.usable_hz &&
         position > (s_.is_complex ? edge : half_width_bins + 1.0) &&
         position < static_cast<double>(s_.power.size()) - edge;
}

LinePower ProductMeter::at(double frequency_hz, int half_width_bins) const {
  LinePower line = measure_line(s_, heard_at(frequency_hz), half_width_bins, lines_);
  add_unknown(line, rounding_);
  return line;
}

bool ProductMeter::is_covered(double frequency_hz) const {
  const double reach = 2.0 * kMainLobe * s_.bin_hz();
  return std::any_of(known_.begin(), known_.end(), [&](const Known& line) {
    return !line.is_tone() && std::abs(frequency_of(line, 0.5) - heard_at(frequency_hz)) < reach;
  });
}

std::optional<ProductMeter::Neighbour> ProductMeter::neighbour_of(Place p) const {
  const auto line = nearest(p, false);
  return line ? line : nearest(p, true);
}

std::optional<ProductMeter::Neighbour> ProductMeter::nearest(Place p, bool is_image) const {
  std::optional<Neighbour> nearest;
  const double own = heard_at(signed_frequency(p));
  const int own_width = half_width(p);
  for (const Known& line : known_) {
    if (line.is_mirrored != is_image || line.stands_at(p) || !line.is_certain) continue;
    const double distance = std::abs(frequency_of(line, 0.5) - own);
    if (distance >= (own_width + half_width(line.place)) * s_.bin_hz()) continue;
    if (!nearest || distance < nearest->distance_hz)
      nearest = Neighbour{line.name, distance, line.is_tone(), line.is_mirrored};
  }
  return nearest;
}

std::vector<ProductMeter::ToneImage> ProductMeter::tone_images() const {
  std::vector<ToneImage> images;
  for (const Known& image : known_) {
    if (!image.is_mirrored) continue;
    const double f = frequency_of(image, 0.5);
    const int width = half_width(image.place);
    if (!is_inside(f, width)) continue;
    const bool is_alone = std::none_of(known_.begin(), known_.end(), [&](const Known& line) {
      return !line.is_mirrored &&
             std::abs(frequency_of(line, 0.5) - f) < (width + half_width(line.place)) * s_.bin_hz();
    });
    images.push_back({at(f, width), image.place.a != 0.0 ? 0U : 1U, is_alone});
  }
  return images;
}

std::optional<LinePower> ProductMeter::parted(Place p, const std::stop_token& stop) const {
  const auto wanted = [this, p](double fraction) {
    return heard_at(track_.at(fraction, p.a, p.b));
  };
  // Whatever is within reach of the widest look at this line.
  const double reach = 200.0 * s_.bin_hz();
  std::vector<MovingFrequency> others;
  for (const Known& line : known_) {
    if (!line.is_certain) continue;
    // Real audio has every line a second time, on the other side of 0 Hz.
    for (const double side : {1.0, -1.0}) {
      if ((side > 0.0 && line.stands_at(p)) || (side < 0.0 && s_.is_complex)) continue;
      if (std::abs(side * frequency_of(line, 0.5) - wanted(0.5)) > reach) continue;
      others.emplace_back(
          [this, line, side](double fraction) { return side * frequency_of(line, fraction); });
    }
  }
  std::optional<LinePower> line = measure_close_line(seen_.open, wanted, others, s_.rbw_hz(), stop);
  if (line) add_unknown(*line, rounding_);
  return line;
}

double relative_u_db(const LinePower& line) {
  return kDbPerRelativePower * line.u_power / std::max(line.power, 1e-300);
}

void measure_products(TwoToneAnalysis& a, const ProductMeter& meter, int highest_order,
                      double one_tone, double tone_u_db, TwoToneObservations& seen,
                      const std::stop_token& stop) {
  const double pep_over_tone = a.pep_over_tone_db();
  const auto image = image_ratio(meter.tone_images(), a.tones);
  for (int order = 3; order <= highest_order; order += 2) {
    for (const Side side : {Side::lower, Side::upper}) {
      const Place place = product_place(order, side);
      const double frequency = meter.signed_frequency(place);
      const int half_width = meter.half_width(place);
      if (!meter.is_inside(frequency, half_width)) {
        if (order <= kNamedOrders) seen.outside.push_back(order);
        continue;
      }
      LinePower line = meter.at(frequency, half_width);
      TwoToneProduct p;
      p.order = order;
      p.side = side;
      p.frequency_hz = frequency;
      if (const auto neighbour = meter.neighbour_of(place)) {
        // Another image says how strong this one is.
        if (neighbour->is_image && image && line.power > kOverImage * *image * one_tone) {
          add_unknown(line, *image * one_tone);
        } else if (const auto parted = meter.parted(place, stop)) {
          line = *parted;
        } else if (neighbour->is_tone) {
          // A tone as the limit of a product would say nothing.
          seen.covered.push_back(
              fmt::format("{} falls on {}: it cannot be measured and is left out.", product_name(p),
                          neighbour->name));
          continue;
        } else if (!line.is_bound) {
          // Two lines in one place: together they are only a limit for the product.
          line.is_bound = true;
          p.is_covered = true;
          // Nearer than one turn of phase in the whole record, they may cancel all the time.
          const bool may_cancel = neighbour->distance_hz * a.parts->measured.length_s < 1.0;
          if (may_cancel) line.upper_power *= 4.0;
          seen.covered.push_back(covered_text(product_name(p), *neighbour, may_cancel));
        }
      }
      p.is_bound = line.is_bound;
      const double power = line.is_bound ? line.upper_power : line.power;
      p.level_dbc = db_from_power_ratio(std::max(power, 1e-30) / one_tone);
      p.level_db_pep = to_pep(DbOneTone{p.level_dbc}, Db{pep_over_tone}).value;
      p.u_db = line.is_bound ? 0.0 : std::hypot(relative_u_db(line), tone_u_db);
      p.floor_dbc = db_from_power_ratio(std::max(line.noise_rbw, 1e-30) / one_tone);
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
  std::vector<double> floors;
  for (const TwoToneProduct& p : a.products) floors.push_back(p.floor_dbc);
  if (floors.empty()) return;
  const double floor = median_of(floors);

  for (const ProductMeter::ToneImage& image : meter.tone_images()) {
    if (image.is_alone && !image.line.is_bound)
      a.image_dbc = std::max(a.image_dbc.value_or(-300.0), dbc(image.line));
  }
  // Clipping leaves no range that could be vouched for.
  if (a.clipped_samples == 0) {
    a.usable_dynamic_range_db = -std::max(floor, a.image_dbc.value_or(-300.0));
  }

  for (const double offset : {50.0, 60.0, 100.0, 120.0}) {
    if (offset < 3.0 * kMainLobe * a.rbw_hz / 2.0 || offset > spacing / 2.5) continue;
    for (const double f : {f1 - offset, f1 + offset, f2 - offset, f2 + offset}) {
      if (!meter.is_inside(f, kMainLobe) || meter.is_covered(f)) continue;
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
