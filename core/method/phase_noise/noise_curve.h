#pragma once

#include <numbers>
#include <optional>
#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// What a power changes by, relatively, for one decibel.
inline constexpr double kPowerPerDb = std::numbers::ln10 / 10.0;

/// Offsets nearer to each other than this, relatively, are one.
inline constexpr double kSameOffset = 1e-6;

/// L(f) at one offset: single-sideband phase noise relative to the carrier, half the one-sided
/// spectral density of phase (IEEE 1139), or likewise of amplitude.
struct CurvePoint {
  double offset_hz = 0.0;
  double l_dbc_hz = 0.0;
  double u_db = 0.0;  ///< standard, of its own scatter; 0 = not known
  Bound bound = Bound::none;
  double line_hz = 0.0;  ///< noise bandwidth that a line is seen through; 0 = lines are not told
  double u_common_db = 0.0;  ///< standard, the same for its neighbours: an analyser's log fidelity
};

/// A line in the spectrum of phase. As a small phase modulation of index b it reads 20 lg(b / 2),
/// which is what each of its two sidebands has at radio frequency; a line on one side only is half
/// phase and half amplitude, and stands 6.02 dB higher there.
struct NoiseSpur {
  double offset_hz = 0.0;
  double level_dbc = 0.0;
  double u_db = 0.0;
  bool is_one_sided = false;
  double rf_level_dbc() const { return level_dbc + (is_one_sided ? 6.0206 : 0.0); }
};
/// Whether two lines of the same carrier are one.
bool is_same_line(const NoiseSpur& a, const NoiseSpur& b);

/// Which averages a curve was made of; unlike ones are not compared.
enum class NoiseDetector { unknown, power_average, log_average };

/// Phase noise over the offset from the carrier, lines taken out of it.
struct NoiseCurve {
  std::string name;
  std::vector<CurvePoint> points;  ///< rising in offset
  std::vector<NoiseSpur> spurs;    ///< rising in offset
  std::vector<CurvePoint> am;      ///< noise of the amplitude; empty where it was not seen
  int per_decade = 0;              ///< logarithmic bins; 0 = as it was given
  NoiseDetector detector = NoiseDetector::power_average;
  double length_s = 0.0;  ///< of a recording
  /// The carrier: where the recording has it, at radio frequency, and its level.
  std::optional<double> carrier_hz = std::nullopt;
  std::optional<double> rf_hz = std::nullopt;
  std::optional<double> level_dbfs = std::nullopt;
  std::optional<double> level_dbm = std::nullopt;
  bool has_u = true;  ///< whether its points have a scatter of their own
  std::vector<Remark> remarks = {};

  double low_hz() const { return points.empty() ? 0.0 : points.front().offset_hz; }
  double high_hz() const { return points.empty() ? 0.0 : points.back().offset_hz; }
};

/// Between its points straight in decibels over the logarithm of the offset; nullopt outside.
std::optional<CurvePoint> curve_at(const std::vector<CurvePoint>& points, double offset_hz);
/// Whether a line of that level would stand out of a curve there.
bool shows_line(const NoiseCurve& curve, const NoiseSpur& line);

/// To two digits: "13 kHz".
std::string offset_words(double hz);

/// After a multiplication by N, or what it is of before one: 20 lg N up, spurs too, offsets as they
/// are. Example: x4 is 12.041 dB.
NoiseCurve multiplied(const NoiseCurve& curve, double n);

/// Mean over the logarithmic bins 10^(k / per_decade) of a curve whose points are its own bins or
/// finer; one that is coarser comes back as it is.
NoiseCurve rebinned(const NoiseCurve& curve, int per_decade);

}  // namespace heron
