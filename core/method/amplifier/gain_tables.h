#pragma once

#include <vector>

#include "core/method/amplifier/gain_case.h"
#include "core/method/result.h"

namespace heron {

/// Drive steps with the highest drive first; DC power and heat, and harmonics, where they were
/// read; what changed against another test.
std::vector<ResultTable> gain_tables(const GainCase& of);

}  // namespace heron
