#pragma once

#include <QPainter>

#include "app/theme/theme.h"

namespace heron {

/// 2 px water round a control that has keyboard focus; inside its box, so that nothing clips it.
inline void draw_focus_ring(QPainter& p, const QRectF& box, double radius, const Theme& t) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.water, 2));
  p.drawRoundedRect(box.adjusted(1, 1, -1, -1), radius, radius);
  p.restore();
}

}  // namespace heron
