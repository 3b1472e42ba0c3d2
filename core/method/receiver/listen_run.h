#pragma once

#include "core/method/evidence.h"
#include "core/method/run_recipe.h"

namespace heron {

/// How a receiver is listened to on each band: a carrier from the generator, its audio by a
/// voltmeter, from about what is specified on.
RunRecipe listen_run(const Evidence& evidence);

}  // namespace heron
