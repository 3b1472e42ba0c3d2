#pragma once

#include "core/method/evidence.h"
#include "core/method/run_recipe.h"

namespace heron {

/// How a receiver's conversion gain is read with a generator and a meter at its IF: at one level of
/// the input and 10 dB lower.
RunRecipe convert_run(const Evidence& evidence);

}  // namespace heron
