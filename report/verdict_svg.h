#pragma once

#include <string>

#include "core/judge/verdict.h"

namespace heron {

/// Print colour of a verdict, "#2F6E43".
std::string verdict_colour(Verdict verdict);
/// The verdict's silhouette in 16 x 16, for inside an SVG.
std::string verdict_shape(Verdict verdict);
/// The same as an inline SVG of the given size; the word must stand beside it.
std::string verdict_svg(Verdict verdict, int size_px);
/// Text with &, <, >, quotes made safe for HTML and SVG.
std::string escaped(const std::string& text);

}  // namespace heron
