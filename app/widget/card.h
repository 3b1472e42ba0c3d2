#pragma once

#include <QPaintEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <QWidget>

#include "app/theme/theme.h"

namespace heron {

/// A sheet of paper: 1 px edge, radius 6, no shadow.
class Card : public QWidget {
 public:
  using QWidget::QWidget;

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    p.setPen(t.hair);
    p.setBrush(t.sheet);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  }
};

/// What stands on a card from edge to edge, one below the other.
inline QVBoxLayout* card_column(Card* card) {
  auto* column = new QVBoxLayout(card);
  column->setContentsMargins(1, 1, 1, 1);
  column->setSpacing(0);
  return column;
}

}  // namespace heron
