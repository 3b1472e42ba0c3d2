#pragma once

#include <QPainter>
#include <QWidget>

#include "app/theme/theme.h"

namespace heron {

/// What floats over the window by itself, square: raised paper with a strong edge.
inline void draw_float_frame(QPainter& p, const QWidget& widget) {
  const Theme& t = theme_of(&widget);
  p.fillRect(widget.rect(), t.raised);
  p.setPen(t.hairStrong);
  p.drawRect(QRectF(widget.rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

}  // namespace heron
