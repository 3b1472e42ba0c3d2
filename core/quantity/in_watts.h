#pragma once

#include "core/quantity/figure.h"

namespace heron {

/// A level in W with its uncertainty, for showing.
Figure in_watts(const Figure& level);

}  // namespace heron
