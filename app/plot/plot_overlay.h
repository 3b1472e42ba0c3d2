#pragma once

#include "core/method/result.h"

namespace heron {

class PlotView;

/// Whether a layer is told by a name at the right.
bool is_named(const PlotLayer& layer);

/// What the view's graphs cannot draw: ranges and the chosen place behind them; points, limits,
/// brackets, words and names over them.
void add_plot_overlays(PlotView& view);

}  // namespace heron
