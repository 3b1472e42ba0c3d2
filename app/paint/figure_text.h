#pragma once

#include <QPainter>
#include <QString>

#include "app/theme/fonts.h"

namespace heron {

/// A standing readout: sign, digits and point in the figure face, unit and words in Inter.
double figure_text_width(const QString& text, Type figures, Type words);
/// The text, or as much of it as fits with an ellipsis.
QString elided_figure_text(const QString& text, Type figures, Type words, double width);
/// Draws from a baseline point; returns the width.
double draw_figure_text(QPainter& painter, QPointF baseline, const QString& text, Type figures,
                        Type words, const QColor& colour);

/// Text elided at the right edge of its box.
void draw_elided(QPainter& painter, const QRectF& box, int flags, const QString& text);

}  // namespace heron
