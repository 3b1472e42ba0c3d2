#pragma once

#include <string>

#include "report/document.h"

namespace heron {

/// The picture as a self-contained vector drawing, 760 x 320 units, for print (light).
std::string spectrum_svg(const SpectrumPicture& picture);

}  // namespace heron
