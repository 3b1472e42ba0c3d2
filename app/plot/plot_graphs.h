#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

/// Curves, joined traces and bands of a panel as graphs of its axes. `chosen` is the step that is
/// drawn thicker; where the plot is all about one step, its curve needs no such mark.
void add_graphs(QCPAxisRect& rect, const PlotPanel& panel, std::optional<std::size_t> chosen,
                bool is_of_one_step);
/// Where a layer is read.
inline QCPAxis::AxisType y_axis_of(const PlotLayer& layer) {
  return layer.is_right ? QCPAxis::atRight : QCPAxis::atLeft;
}
/// Of single readings among many.
QColor dot_colour(const Theme& theme, int trace);
/// Pens and tints of all of them.
void dress_graphs(QCustomPlot& plot, const Theme& theme);

}  // namespace heron
