#pragma once

#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/receiver/indicator_band.h"
#include "core/method/result.h"

namespace heron {

/// A position of the receiver's own attenuator: how much more level the same indication needs.
struct Substituted {
  std::string what;
  std::string shows;
  double nominal_db = 0.0;
  Figure step;
};
struct Substitution {
  std::vector<Substituted> steps;
  std::vector<Remark> remarks;
};
/// Of all that were read with it in, against the same indication of the same band without: both
/// before S9 was moved, or both after.
Substitution attenuator_steps(const std::vector<IndicatorRead>& all);

ResultTable attenuator_table(const std::vector<Substituted>& steps);

}  // namespace heron
