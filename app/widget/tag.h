#pragma once

#include <QLabel>
#include <QPainter>

#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {

/// A small word in a tinted pill beside a title.
class Tag : public QLabel {
 public:
  using QLabel::QLabel;
  QSize sizeHint() const override {
    const double w = QFontMetricsF(type_font(Type::label)).horizontalAdvance(text());
    return {static_cast<int>(w) + 18, 18};
  }
  QSize minimumSizeHint() const override { return sizeHint(); }

 protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const Theme& t = theme_of(this);
    const QRectF pill(0, (height() - 18) / 2.0, width(), 18);
    p.setPen(Qt::NoPen);
    p.setBrush(t.waterTint);
    p.drawRoundedRect(pill, 9, 9);
    p.setFont(type_font(Type::label));
    p.setPen(t.water);
    p.drawText(pill, Qt::AlignCenter, text());
  }
};

}  // namespace heron
