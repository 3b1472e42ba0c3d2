#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/quantity/figure.h"

namespace heron {

/// One bar of an uncertainty budget.
struct BudgetRow {
  std::string name;
  Scope scope = Scope::independent;
  double expanded = 0.0;  ///< U of this part alone, k = 2
  double share = 0.0;     ///< of U squared, 0..1
};

/// Where the uncertainty of a figure comes from, ranked.
struct Budget {
  std::vector<BudgetRow> rows;  ///< parts below 2 % of U squared are folded into "others"
  double expanded = 0.0;        ///< U of the figure
  double step_to_step = 0.0;    ///< U of a difference between two such figures on one hook-up
  /// Largest improvement: the largest part halved.
  std::string largest;
  double expanded_if_halved = 0.0;
};

/// Contributions with the same source and scope are added in quadrature first.
Budget budget_of(const Figure& figure);

/// "± 0.7 → ± 0.5 dB, which settles the verdict"; `margin` is the distance from the limit.
std::string help_sentence(const Budget& budget, const std::string& unit,
                          std::optional<double> margin);

}  // namespace heron
