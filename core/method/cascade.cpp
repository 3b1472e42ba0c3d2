#include "core/method/cascade.h"

#include <cmath>

#include "core/quantity/levels.h"

namespace heron {

std::vector<CascadedProduct> predict_cascade(const TwoToneAnalysis& exciter,
                                             const TwoToneAnalysis& amplifier) {
  std::vector<CascadedProduct> predicted;
  for (const TwoToneProduct& e : exciter.products) {
    const TwoToneProduct* a = amplifier.find(e.order, e.side);
    if (a == nullptr) continue;
    CascadedProduct p;
    p.order = e.order;
    p.side = e.side;
    p.exciter_dbc = e.level_dbc;
    p.amplifier_dbc = a->level_dbc;
    const double ve = voltage_ratio_from_db(e.level_dbc);
    const double va = voltage_ratio_from_db(a->level_dbc);
    p.power_sum_dbc = db_from_power_ratio(ve * ve + va * va);
    p.in_phase_dbc = db_from_voltage_ratio(ve + va);
    const double rest = std::abs(ve - va);
    p.opposed_dbc = rest > 1e-15 ? db_from_voltage_ratio(rest) : -300.0;
    p.is_bound = e.is_bound || a->is_bound;
    // Below a bound anything is possible: only the upper end of the band holds.
    if (p.is_bound) p.opposed_dbc = -300.0;
    predicted.push_back(p);
  }
  return predicted;
}

CascadeFinding compare_cascade(const CascadedProduct& predicted, const TwoToneAnalysis& pair,
                               double u_db) {
  const TwoToneProduct* measured = pair.find(predicted.order, predicted.side);
  if (measured == nullptr) return CascadeFinding::unknown;
  const double expanded = 2.0 * std::hypot(u_db, measured->u_db);
  if (measured->is_bound) {
    // A bound can only say that it is not above.
    return measured->level_dbc <= predicted.in_phase_dbc + expanded ? CascadeFinding::within
                                                                    : CascadeFinding::unknown;
  }
  if (measured->level_dbc > predicted.in_phase_dbc + expanded) return CascadeFinding::above;
  if (measured->level_dbc < predicted.opposed_dbc - expanded) return CascadeFinding::below;
  return CascadeFinding::within;
}

}  // namespace heron
