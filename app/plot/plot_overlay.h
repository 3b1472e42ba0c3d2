#pragma once

namespace heron {

class PlotView;

/// What the view's graphs cannot draw: ranges and the chosen place behind them; points, limits,
/// brackets, words and names over them.
void add_plot_overlays(PlotView& view);

}  // namespace heron
