#include "core/quantity/budget.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kFoldedShare = 0.02;

}  // namespace

Budget budget_of(const Figure& figure) {
  Budget budget;
  budget.expanded = figure.expanded();
  const double total = budget.expanded * budget.expanded;
  double independent = 0.0;
  for (const Contribution& c : figure.contributions) {
    const double expanded = 2.0 * c.u;
    if (c.scope == Scope::independent) independent += expanded * expanded;
    const auto same = std::find_if(budget.rows.begin(), budget.rows.end(), [&](const BudgetRow& r) {
      return r.name == c.source && r.scope == c.scope;
    });
    if (same != budget.rows.end())
      same->expanded = std::hypot(same->expanded, expanded);
    else if (expanded > 0.0)
      budget.rows.push_back({c.source, c.scope, expanded, 0.0});
  }
  // Each of two steps brings its own independent part; what they share cancels.
  budget.step_to_step = std::sqrt(2.0 * independent);
  for (BudgetRow& row : budget.rows)
    row.share = total > 0.0 ? row.expanded * row.expanded / total : 0.0;
  std::stable_sort(budget.rows.begin(), budget.rows.end(),
                   [](const BudgetRow& a, const BudgetRow& b) { return a.expanded > b.expanded; });
  if (budget.rows.empty()) return budget;
  const BudgetRow& top = budget.rows.front();
  budget.largest = top.name;
  budget.expanded_if_halved = std::sqrt(std::max(0.0, total - 0.75 * top.expanded * top.expanded));
  const auto small = std::find_if(budget.rows.begin(), budget.rows.end(),
                                  [](const BudgetRow& r) { return r.share < kFoldedShare; });
  if (budget.rows.end() - small < 2) return budget;
  BudgetRow others{fmt::format("{} others", budget.rows.end() - small), Scope::common, 0.0, 0.0};
  for (auto row = small; row != budget.rows.end(); ++row) {
    others.expanded = std::hypot(others.expanded, row->expanded);
    others.share += row->share;
    if (row->scope == Scope::independent) others.scope = Scope::independent;
  }
  budget.rows.erase(small, budget.rows.end());
  budget.rows.push_back(others);
  return budget;
}

std::string help_sentence(const Budget& budget, const std::string& unit,
                          std::optional<double> margin) {
  if (budget.rows.empty()) return "No contribution has been stated, so there is nothing to reduce.";
  const int decimals = decimals_for(budget.expanded_if_halved, Rounding::compact);
  std::string text = fmt::format("Half of \u201c{}\u201d would turn \u00b1 {} into \u00b1 {} {}.",
                                 budget.largest, number_text(budget.expanded, decimals),
                                 number_text(budget.expanded_if_halved, decimals), unit);
  if (!margin) return text;
  const double distance = std::abs(*margin);
  if (distance > budget.expanded)
    text += " The verdict is settled without it.";
  else if (distance > budget.expanded_if_halved)
    text += " That settles the verdict.";
  else
    text += fmt::format(" That alone does not settle it: the margin is {} {}.",
                        number_text(*margin, decimals, true), unit);
  return text;
}

}  // namespace heron
