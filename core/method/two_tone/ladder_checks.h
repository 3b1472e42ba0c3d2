#pragma once

#include <vector>

#include "core/method/two_tone/two_tone_ladder.h"

namespace heron {

/// What is wrong with single steps of a ladder and would be believed in its sum: faults of their
/// recordings, one recording at two steps, two that seem to be swapped.
std::vector<Remark> check_steps(const std::vector<LadderStep>& steps);

/// Orders that a ladder needs, that another step has and this one does not.
std::vector<int> missing_orders(const std::vector<LadderStep>& steps, std::size_t step);

}  // namespace heron
