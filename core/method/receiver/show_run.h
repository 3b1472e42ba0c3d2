#pragma once

#include "core/method/evidence.h"
#include "core/method/run_recipe.h"

namespace heron {

/// How an indicator is read with a generator: its level is moved until the receiver shows what the
/// step is called by.
RunRecipe show_run(const Evidence& evidence);

}  // namespace heron
