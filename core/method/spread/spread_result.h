#pragma once

#include "core/method/evidence.h"
#include "core/method/result.h"

namespace heron {

/// What recordings of noise or speech mean, in the views average and max-hold: of a test of the
/// width, or of the notch and the adjacent channels. A limit counts for the figure that it names.
Result evaluate_spread(const Evidence& evidence, bool is_width);

}  // namespace heron
