#include "core/quantity/in_watts.h"

#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {

Figure in_watts(const Figure& level) {
  Figure f = level;
  f.value = to_watt(Dbm{level.value}).value;
  f.unit = "W";
  for (Contribution& c : f.contributions) c.u *= f.value / kDbPerRelativePower;
  return f;
}

std::string watts_text(double dbm, double u_db) {
  const double w = to_watt(Dbm{dbm}).value;
  if (u_db > 0.0) {
    const double expanded = 2.0 * u_db / kDbPerRelativePower * w;
    return number_text(w, decimals_for(expanded, Rounding::compact)) + " W";
  }
  return engineering_text(w, "W", 3);
}

}  // namespace heron
