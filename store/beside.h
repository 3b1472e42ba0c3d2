#pragma once

#include <map>
#include <string>

#include "core/quantity/figure.h"
#include "store/shack.h"

namespace heron {

/// What the first test of another characteristic in the same evaluation says at each of its steps,
/// by the name of the step. A damaged one says nothing.
std::map<std::string, Figure> figures_beside(const Shack& shack, Id evaluation,
                                             std::string_view characteristic);

}  // namespace heron
