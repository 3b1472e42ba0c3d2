#pragma once

#include <string>

#include "core/method/result.h"
#include "report/flag_layout.h"

namespace heron {

/// Marks of a panel that stand at single places, on paper: pennants, labels, what cannot be seen,
/// bands, moments, places and the handle.
bool is_place_layer(const PlotLayer& layer);
/// What lies under the curves; then what lies over them.
std::string layer_behind_svg(const PlotLayer& layer, const SpectrumFrame& frame);
std::string layer_over_svg(const PlotLayer& layer, const PlotPanel& panel,
                           const SpectrumFrame& frame);

/// A line of words in the face of all pictures.
std::string svg_text(double x, double y, const std::string& words, const char* anchor,
                     const std::string& colour, const char* more = "");
/// About as wide as words can be: that of the widest digits.
double svg_words_width(const std::string& utf8);

}  // namespace heron
