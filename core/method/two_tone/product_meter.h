#pragma once

#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/method/measure/line_power.h"
#include "core/method/two_tone/tone_track.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_remarks.h"
#include "core/method/two_tone/two_tone_spectrum.h"

namespace heron {

/// A place in the spectrum by how it follows the two tones: a f1 + b f2.
struct Place {
  double a;
  double b;
};

Place product_place(int order, Side side);

/// Everything measured against one averaged spectrum and one track of the tones; both must outlive
/// the meter. Lines that crowd there are parted in the recording itself. Frequencies in Hz, powers
/// re full scale.
class ProductMeter {
 public:
  static constexpr int kMainLobe = kLineHalfWidth;

  ProductMeter(const TwoToneSpectrum& seen, const ToneTrack& track, double carrier_hz);
  double signed_frequency(Place p) const { return track_.middle_of(p.a, p.b); }
  double heard_at(double frequency_hz) const;
  /// Half width of a line that drifts with the tones, bins.
  int half_width(Place p) const;
  bool is_inside(double frequency_hz, int half_width_bins) const;
  LinePower at(double frequency_hz, int half_width_bins) const;
  /// What the recorder's rounding may put on any line.
  void set_rounding(double power) { rounding_ = power; }
  /// A line whose lobe runs into that of a product; the nearest one.
  struct Neighbour {
    std::string name;  ///< "the carrier"
    double distance_hz = 0.0;
    bool is_tone = false;
    bool is_image = false;
  };
  /// What is no image comes first.
  std::optional<Neighbour> neighbour_of(Place p) const;
  /// The mirror image of a tone where it lies inside the recording.
  struct ToneImage {
    LinePower line;
    std::size_t tone = 0;   ///< 0 the lower, 1 the upper
    bool is_alone = false;  ///< on nothing that is known
  };
  std::vector<ToneImage> tone_images() const;  ///< none in audio
  /// The product told apart from its neighbours; nullopt where the record is too short for that.
  std::optional<LinePower> parted(Place p, const std::stop_token& stop) const;
  /// True for products, the carrier's place, 0 Hz and mirror images: what is there is no hum.
  bool is_covered(double frequency_hz) const;

 private:
  struct Known {
    std::string name;
    Place place{0.0, 0.0};
    double offset_hz = 0.0;  ///< of a line that does not follow the tones
    bool is_mirrored = false;
    bool is_certain = true;  ///< products of high order may be far below the noise
    bool is_tone() const {
      return !is_mirrored && offset_hz == 0.0 && std::abs(place.a) + std::abs(place.b) == 1.0;
    }
    bool stands_at(Place p) const {
      return !is_mirrored && offset_hz == 0.0 && place.a == p.a && place.b == p.b;
    }
  };
  double frequency_of(const Known& line, double fraction) const;
  std::optional<Neighbour> nearest(Place p, bool is_image) const;
  const TwoToneSpectrum& seen_;
  const Spectrum& s_;
  const ToneTrack& track_;
  std::vector<Known> known_;
  std::vector<LineSpan> lines_;
  double rounding_ = 0.0;
};

/// Relative standard uncertainty of a line's power, dB.
double relative_u_db(const LinePower& line);

/// Fills products; what lies on something else becomes a bound.
void measure_products(TwoToneAnalysis& analysis, const ProductMeter& meter, int highest_order,
                      double one_tone_power, double tone_u_db, TwoToneObservations& seen,
                      const std::stop_token& stop);

/// Fills carrier, image and usable dynamic range; looks for hum beside the tones.
void measure_surroundings(TwoToneAnalysis& analysis, const ProductMeter& meter, double carrier_hz,
                          double one_tone_power, TwoToneObservations& seen);

}  // namespace heron
