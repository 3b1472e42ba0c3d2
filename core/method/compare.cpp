#include "core/method/compare.h"

#include <cmath>
#include <fmt/format.h>

#include "core/quantity/budget.h"
#include "core/quantity/format.h"

namespace heron {
std::string comparison_words(const Answer& now, const Answer& then, Sense better,
                             bool is_same_hookup) {
  if (now.figure.unit != then.figure.unit || now.figure.convention != then.figure.convention)
    return {};
  const Figure change = change_between(now.figure, then.figure, is_same_hookup);
  if (is_no_difference(change)) return "No difference to " + then.where + ".";
  Figure size = change;
  size.value = std::abs(change.value);
  const FormattedFigure f = format_figure(size, Rounding::compact, 1);
  const bool is_low_good = better == Sense::at_most;
  return fmt::format("{}{} {} {} than {}.", f.value,
                     f.uncertainty.empty() ? "" : " \u00b1 " + f.uncertainty,
                     difference_unit(change.unit),
                     (change.value < 0.0) == is_low_good ? "better" : "worse", then.where);
}

Figure change_between(Figure now, Figure then, bool is_on_same) {
  if (!is_on_same)
    for (Figure* f : {&now, &then})
      for (Contribution& part : f->contributions) part.scope = Scope::independent;
  return difference(now, then);
}

Figure change_of_error(Figure now, Figure then, bool is_on_same) {
  for (Figure* f : {&now, &then}) f->value = std::abs(f->value);
  return change_between(std::move(now), std::move(then), is_on_same);
}

std::string change_words(Figure change, std::optional<bool> is_better, bool has_unit) {
  if (is_no_difference(change)) return "no difference";
  const std::string unit = has_unit ? " " + difference_unit(change.unit) : std::string();
  if (!is_better) return figure_cell(change, 1, true) + unit;
  change.value = std::abs(change.value);
  return (*is_better ? "better by " : "worse by ") + figure_cell(change, 1) + unit;
}

}  // namespace heron
