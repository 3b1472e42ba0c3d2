#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

/// Whether a layer is drawn here.
bool is_pennant_mark(const PlotLayer& layer);

/// Pennants on their poles, labels beside points, and the words of a floor. `mark` is the chosen
/// pennant's.
void draw_pennant_marks(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                        const std::string& mark, const Theme& theme);
/// What cannot be seen, tinted; under everything else.
void draw_floor(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel, const Theme& theme);

/// Where words of labels and pennants stand, of labels first; those outside are left out.
std::vector<QRectF> label_boxes(QCPAxisRect& rect, const PlotPanel& panel);
/// The mark of the pennant at a place; nullopt where there is none.
std::optional<std::string> pennant_at(QCPAxisRect& rect, const PlotPanel& panel, QPointF point);

}  // namespace heron
