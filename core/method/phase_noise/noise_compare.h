#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/phase_noise/noise_curve.h"

namespace heron {

/// What an instrument adds by itself, taken out: subtracted in power. Where the difference is
/// within its own uncertainty the curve becomes a bound. InputError where the two share no offset.
NoiseCurve without_floor(const NoiseCurve& curve, const NoiseCurve& floor);

/// What a change did; unknown where it is hidden, or no uncertainty is known.
enum class NoiseChange { none, better, worse, unknown };
std::string change_word(NoiseChange change);  ///< "no difference"; empty if unknown

/// After less before at one offset: minus is better.
struct NoiseDifference {
  double offset_hz = 0.0;
  double delta_db = 0.0;
  double u_db = 0.0;  ///< standard; what both have in common cancels
  bool has_u = true;
  bool is_significant = false;    ///< |delta| above 2 u, and known to be on that side
  bool is_before_hidden = false;  ///< only a bound is known of it: it counts for no range
  bool is_after_hidden = false;
  bool is_bound() const { return is_before_hidden || is_after_hidden; }
};

/// Neighbouring offsets with the same to say.
struct NoiseRange {
  double low_hz = 0.0;
  double high_hz = 0.0;
  NoiseChange change = NoiseChange::none;
  double delta_db_min = 0.0;  ///< of the differences in it
  double delta_db_max = 0.0;
};

struct NoiseComparison {
  std::vector<NoiseDifference> differences;
  std::vector<NoiseRange> ranges;  ///< rising; nothing without uncertainties
  std::vector<NoiseSpur> gained;   ///< not there before, where it would have been seen
  std::vector<NoiseSpur> lost;     ///< likewise
  std::vector<Remark> remarks;
};

/// Two states of the same thing. Only like is compared: both are brought to common bins, and all
/// curves are mean power already; a remark names unlike detectors. InputError where they share no
/// offset.
/// `repeats_db`: standard, how well the same measured again agrees.
NoiseComparison compare_noise(const NoiseCurve& before, const NoiseCurve& after,
                              double repeats_db = 0.0);

/// Two curves at the same offsets: those of their common bins, else where they are both known,
/// `per_decade` a decade. Empty where they share none.
struct CommonCurves {
  std::vector<CurvePoint> a;
  std::vector<CurvePoint> b;
};
CommonCurves common_points(const NoiseCurve& a, const NoiseCurve& b, int per_decade = 10);

/// "better by 7 to 8 dB from 13 to 350 kHz, no difference below 1.2 kHz"; empty without ranges.
std::string change_sentence(const NoiseComparison& comparison);

}  // namespace heron
