#pragma once

#include <string>

#include "core/method/amplifier/gain_case.h"
#include "core/method/run_recipe.h"

namespace heron {

/// How instruments take the drive steps of a test, from low to high.
RunRecipe run_gain(const Evidence& evidence);

/// Why the step of that name must not be keyed after those that were measured; empty if it may:
/// compression, sag or a harmonic beyond what was set, the limit of the supply reached or, by the
/// current law and gain carried on from the last steps, to be passed; a part of the hook-up or the
/// planned drive passed.
std::string stop_before(const GainCase& of, const std::string& step);
std::string stop_before_step(const Evidence& evidence, const std::string& step);

}  // namespace heron
