#include "core/method/measure/lowpass.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/quantity/levels.h"

namespace heron {

double chebyshev_loss_db(int order, double ripple_db, double ratio) {
  const double squared_ripple = power_ratio_from_db(ripple_db) - 1.0;
  const double n = order;
  const double x = std::abs(ratio);
  const double polynomial = x <= 1.0 ? std::cos(n * std::acos(x)) : std::cosh(n * std::acosh(x));
  return db_from_power_ratio(1.0 + squared_ripple * polynomial * polynomial);
}

std::vector<FilterAdvice> filter_advice(double carrier_hz, std::span<const FilterNeed> lines,
                                        double headroom) {
  std::vector<FilterAdvice> out;
  if (lines.empty() || !(carrier_hz > 0.0)) return out;
  for (const int order : {3, 5, 7, 9}) {
    FilterAdvice a;
    a.order = order;
    a.cutoff_hz = carrier_hz * headroom;
    a.pass_band_loss_db = chebyshev_loss_db(order, kFilterRippleDb, 1.0 / headroom);
    a.margin_db = std::numeric_limits<double>::infinity();
    a.is_enough = true;
    for (const FilterNeed& line : lines) {
      // Relative to a carrier that loses a little itself.
      const double loss =
          chebyshev_loss_db(order, kFilterRippleDb, line.frequency_hz / a.cutoff_hz) -
          a.pass_band_loss_db;
      const double after = line.level_dbc - loss;
      const double margin = line.limit_dbc - after;
      a.is_enough = a.is_enough && margin > line.expanded_db;
      if (margin >= a.margin_db) continue;
      a.margin_db = margin;
      a.worst_hz = line.frequency_hz;
      a.worst_before_dbc = line.level_dbc;
      a.worst_after_dbc = after;
    }
    out.push_back(a);
  }
  return out;
}

const FilterAdvice* lowest_enough(const std::vector<FilterAdvice>& advice) {
  const auto found =
      std::find_if(advice.begin(), advice.end(), [](const FilterAdvice& a) { return a.is_enough; });
  return found == advice.end() ? nullptr : &*found;
}

}  // namespace heron
