#pragma once

#include <string>

#include "core/quantity/figure.h"

namespace heron {

/// A level in W with its uncertainty, for showing.
Figure in_watts(const Figure& level);

/// "12.4 W" of a level in dBm, digits as its uncertainty allows.
std::string watts_text(double dbm, double u_db = 0.0);

}  // namespace heron
