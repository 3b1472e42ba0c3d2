#pragma once

#include <optional>
#include <vector>

#include "core/method/measure/band_power.h"

namespace heron {

/// Signal power of a range: what stands in it less the floor (power per bin), full-scale
/// sinusoid = 1.
double signal_in(const Spectrum& spectrum, TraceView trace, double floor, FrequencyRange range);

/// The same without what the window of the transform carries over the edges of the range.
struct RangePower {
  double power = 0.0;
  double carried = 0.0;  ///< taken off for that
};
RangePower signal_between_edges(const Spectrum& spectrum, TraceView trace, double floor,
                                FrequencyRange range);

/// The occupied bandwidth (ITU-R SM.443): equal shares of the rest lie below and above. Searched in
/// a region no wider than three times itself, so that the floor's scatter elsewhere does not count.
FrequencyRange occupied_in(const Spectrum& spectrum, TraceView trace, double floor, double fraction,
                           FrequencyRange search);

/// By how many bins a place 26 dB down stands further out, from how many bins the fall took.
class EdgeShift {
 public:
  double shift(double fall) const;
  void add(double fall, double shift);  ///< with `fall` rising

 private:
  std::vector<double> falls_;
  std::vector<double> shifts_;
};

/// What a window does to the edges of a spectrum, in bins.
struct WindowBlur {
  explicit WindowBlur(WindowKind window);
  double mean_distance = 0.0;  ///< by which it moves power, either way
  EdgeShift from_6;            ///< by the fall from -6 dB
  EdgeShift from_20;           ///< and from -20 dB
};

struct WidthAt26 {
  FrequencyRange edges;
  double u_hz = 0.0;  ///< of how it is found, without the scatter of the noise
};

/// Where a trace less its floor has fallen 26 dB below its highest in a region; `width_hz` is about
/// the signal's. What smoothing and window add is taken off. nullopt where the floor hides it.
std::optional<WidthAt26> width_at_26(const Spectrum& spectrum, TraceView trace, Hold hold,
                                     double floor, FrequencyRange region, double width_hz);

}  // namespace heron
