#pragma once

#include "core/method/method.h"

namespace heron {

const Method& phase_noise_method();

/// A row with all that is alike where phase noise is the evidence: recordings, traces and tables.
Method reads_noise(Method row);

}  // namespace heron
