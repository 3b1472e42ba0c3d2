#include "core/quantity/in_watts.h"

#include "core/quantity/levels.h"

namespace heron {

Figure in_watts(const Figure& level) {
  Figure f = level;
  f.value = to_watt(Dbm{level.value}).value;
  f.unit = "W";
  for (Contribution& c : f.contributions) c.u *= f.value / kDbPerRelativePower;
  return f;
}

}  // namespace heron
