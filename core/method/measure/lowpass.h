#pragma once

#include <optional>
#include <span>
#include <vector>

namespace heron {

/// Loss of an ideal Chebyshev low-pass filter with equal ripple, dB, at `ratio` = f / cutoff, where
/// the cutoff is the end of the ripple band: 10 lg(1 + e^2 T_n^2(ratio)).
double chebyshev_loss_db(int order, double ripple_db, double ratio);

inline constexpr double kFilterRippleDb = 0.1;

/// A line that must come down: how far it stands over what is allowed (negative: under it).
struct FilterNeed {
  double frequency_hz = 0.0;
  double level_dbc = 0.0;
  double limit_dbc = 0.0;
  double expanded_db = 0.0;  ///< U of the level
};

/// What a filter of one order would do.
struct FilterAdvice {
  int order = 0;
  double cutoff_hz = 0.0;
  double worst_hz = 0.0;  ///< the line with the least margin behind it
  double worst_before_dbc = 0.0;
  double worst_after_dbc = 0.0;
  double margin_db = 0.0;
  double pass_band_loss_db = 0.0;  ///< of the ideal filter at the carrier; real coils add to it
  bool is_enough = false;          ///< every line passes with its uncertainty
};

/// Orders 3, 5, 7, 9 with the cutoff `headroom` above the carrier. Lines below the cutoff stay as
/// they are: no low-pass filter takes them away.
std::vector<FilterAdvice> filter_advice(double carrier_hz, std::span<const FilterNeed> lines,
                                        double headroom = 1.1);
/// The lowest order that is enough; nullptr if none is.
const FilterAdvice* lowest_enough(const std::vector<FilterAdvice>& advice);

}  // namespace heron
