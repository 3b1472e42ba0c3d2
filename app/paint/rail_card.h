#pragma once

#include <QPainter>

#include "app/theme/theme.h"

namespace heron {

/// The current row of a rail: a card with the water bar, and a ring where the keyboard is.
inline void draw_rail_card(QPainter& p, const QRectF& card, bool has_focus, const Theme& t) {
  p.setPen(t.hair);
  p.setBrush(t.sheet);
  p.drawRoundedRect(card.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  p.setPen(Qt::NoPen);
  p.setBrush(t.water);
  p.drawRoundedRect(QRectF(card.left(), card.top() + 8, 3, card.height() - 16), 1.5, 1.5);
  if (!has_focus) return;
  p.setPen(QPen(t.water, 2));
  p.setBrush(Qt::NoBrush);
  p.drawRoundedRect(card.adjusted(1.5, 1.5, -1.5, -1.5), 5, 5);
}

}  // namespace heron
