#include "core/quantity/figure.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace heron {

double Figure::u() const {
  double sum = 0.0;
  for (const Contribution& c : contributions) sum += c.u * c.u;
  return std::sqrt(sum);
}

double Figure::independent_u() const {
  double sum = 0.0;
  for (const Contribution& c : contributions)
    if (c.scope == Scope::independent) sum += c.u * c.u;
  return std::sqrt(sum);
}

Figure difference(const Figure& after, const Figure& before) {
  Figure d = after;
  d.id = after.id + "_change";
  d.label = "Change of " + after.label;
  d.value = after.value - before.value;
  d.contributions.clear();
  auto partner = [](const Contribution& c, const std::vector<Contribution>& list) {
    return std::find_if(list.begin(), list.end(), [&](const Contribution& other) {
      return other.scope == Scope::common && other.source == c.source;
    });
  };
  for (const Contribution& c : after.contributions) {
    double u = c.u;
    if (c.scope == Scope::common) {
      const auto other = partner(c, before.contributions);
      if (other != before.contributions.end()) u = std::abs(c.u - other->u);
    }
    if (u > 0.0) d.contributions.push_back({c.source + " (after)", u, Scope::independent});
  }
  for (const Contribution& c : before.contributions) {
    if (c.scope == Scope::common && partner(c, after.contributions) != after.contributions.end()) {
      continue;
    }
    if (c.u > 0.0) d.contributions.push_back({c.source + " (before)", c.u, Scope::independent});
  }
  if (after.bound != Bound::none && before.bound != Bound::none) {
    // x <= a minus y <= b says nothing.
    d.bound = Bound::none;
    d.contributions = {
        {"both are bounds", std::numeric_limits<double>::infinity(), Scope::independent}};
    return d;
  }
  // x <= a minus y says "at most".
  d.bound = after.bound;
  if (before.bound == Bound::upper) d.bound = Bound::lower;
  if (before.bound == Bound::lower) d.bound = Bound::upper;
  return d;
}

bool is_no_difference(const Figure& difference) {
  if (difference.bound == Bound::upper) return difference.value >= -difference.expanded();
  if (difference.bound == Bound::lower) return difference.value <= difference.expanded();
  return std::abs(difference.value) <= difference.expanded();
}

double u_rectangular(double half_width) {
  return half_width / std::numbers::sqrt3;
}

double coverage_factor(double freedom) {
  const double v = 1.0 / freedom;
  return 2.0 + v * (2.5 + v * (3.0625 + v * 2.859375));
}

double u_mismatch_db(double reflection_1, double reflection_2) {
  const double product = reflection_1 * reflection_2;
  const double limit =
      std::max(20.0 * std::log10(1.0 + product), -20.0 * std::log10(1.0 - product));
  return limit / std::numbers::sqrt2;
}

double reflection_from_vswr(double vswr) {
  return (vswr - 1.0) / (vswr + 1.0);
}

}  // namespace heron
