#pragma once

#include <string>
#include <vector>

#include "core/method/line_power.h"
#include "core/method/tone_track.h"
#include "core/method/two_tone.h"
#include "core/method/two_tone_remarks.h"

namespace heron {

/// A place in the spectrum by how it follows the two tones: a f1 + b f2.
struct Place {
  double a;
  double b;
};

Place product_place(int order, Side side);

/// Everything measured against one averaged spectrum and one track of the tones; both must outlive
/// the meter. Frequencies in Hz, powers re full scale.
class ProductMeter {
 public:
  static constexpr int kMainLobe = kLineHalfWidth;

  ProductMeter(const Spectrum& spectrum, const ToneTrack& track, double carrier_hz);
  double signed_frequency(Place p) const { return track_.middle_of(p.a, p.b); }
  double heard_at(double frequency_hz) const;
  /// Half width of a line that drifts with the tones, bins.
  int half_width(Place p) const;
  bool is_inside(double frequency_hz, int half_width_bins) const;
  LinePower at(double frequency_hz, int half_width_bins) const;
  /// Name of a fixed line that a product lies on; empty if none.
  std::string covering(double frequency_hz, int half_width_bins) const;

 private:
  const Spectrum& s_;
  const ToneTrack& track_;
  double carrier_hz_;
  std::vector<LineSpan> lines_;
};

/// Relative standard uncertainty of a line's power, dB.
double relative_u_db(const LinePower& line);

/// Fills products; what lies on something else becomes a bound.
void measure_products(TwoToneAnalysis& analysis, const ProductMeter& meter, int highest_order,
                      double one_tone_power, double tone_u_db, TwoToneObservations& seen);

/// Fills carrier, image and usable dynamic range; looks for hum beside the tones.
void measure_surroundings(TwoToneAnalysis& analysis, const ProductMeter& meter, double carrier_hz,
                          double one_tone_power, TwoToneObservations& seen);

}  // namespace heron
