#pragma once

#include <QPainter>
#include <QPolygonF>

namespace heron {

/// Pointing down, in the painter's pen: a choice opens here.
inline void draw_chevron(QPainter& p, const QPointF& c) {
  p.drawPolyline(QPolygonF({c + QPointF(-3.5, -1.8), c + QPointF(0, 1.8), c + QPointF(3.5, -1.8)}));
}

}  // namespace heron
