#pragma once

#include <vector>

#include "core/chain/chain.h"
#include "core/quantity/figure.h"

namespace heron {

/// What the hook-up adds to the uncertainty of a level in dBm (not of ratios between lines).
std::vector<Contribution> level_contributions(const Chain& chain, double frequency_hz);

}  // namespace heron
