#include "core/method/measure/path_level.h"

#include "core/method/measure/recorder_linearity.h"

namespace heron {

std::vector<Contribution> level_contributions(const Chain& chain, double frequency_hz) {
  std::vector<Contribution> out =
      evaluate_chain(chain, {0.0, true, frequency_hz, std::nullopt}).contributions;
  const Part* recorder = recorder_of(chain);
  if (recorder == nullptr || !(recorder->u_db > 0.0))
    out.push_back({kAssumedLevel, kAssumedU, Scope::common});
  return out;
}

}  // namespace heron
