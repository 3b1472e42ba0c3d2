#pragma once

#include <QRectF>

#include "app/theme/theme.h"
#include "core/method/result.h"

class QPainter;

namespace heron {

/// A value, or the parts that add up to it, on the scale that a column's rows share: tolerance and
/// zero run through all of them, so that agreement is seen down the column.
void draw_axis_cell(QPainter& p, const QRectF& cell, const TableAxis& axis,
                    const std::optional<AxisCell>& content, const Theme& theme);
/// Zero and the ends of the tolerance, over their lines.
void draw_axis_head(QPainter& p, const QRectF& head, const TableAxis& axis, const Theme& theme);

}  // namespace heron
