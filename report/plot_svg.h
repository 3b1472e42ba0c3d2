#pragma once

#include <string>

#include "core/method/result.h"

namespace heron {

/// Any plot as a self-contained vector drawing for print (light), 760 units wide.
std::string plot_svg(const Plot& plot);
double plot_svg_height(const Plot& plot);

}  // namespace heron
