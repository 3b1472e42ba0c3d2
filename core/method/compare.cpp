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
  Figure here = now.figure;
  Figure there = then.figure;
  if (!is_same_hookup) {
    for (Figure* figure : {&here, &there}) {
      for (Contribution& c : figure->contributions) c.scope = Scope::independent;
    }
  }
  const Figure change = difference(here, there);
  if (is_no_difference(change)) return "No difference to " + then.where + ".";
  Figure size = change;
  size.value = std::abs(change.value);
  const FormattedFigure f = format_figure(size, Rounding::compact, 1);
  const bool is_low_good = better == Sense::at_most;
  return fmt::format("{}{} {} {} than {}.", f.value,
                     f.uncertainty.empty() ? "" : " \u00b1 " + f.uncertainty,
                     change.unit == "dBm" ? "dB" : change.unit,
                     (change.value < 0.0) == is_low_good ? "better" : "worse", then.where);
}

Figure change_between(Figure now, Figure then, bool is_on_same) {
  if (!is_on_same)
    for (Figure* f : {&now, &then})
      for (Contribution& part : f->contributions) part.scope = Scope::independent;
  return difference(now, then);
}

}  // namespace heron
