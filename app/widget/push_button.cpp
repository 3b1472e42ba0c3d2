#include "app/widget/push_button.h"

#include <QFontMetricsF>
#include <QPainter>
#include <cmath>

#include "app/paint/focus_ring.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {

PushButton::PushButton(const QString& text, ButtonRank rank, QWidget* parent)
    : PaintedButton(parent), rank_(rank) {
  setText(text);
  setAccessibleName(text);
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::PointingHandCursor);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

QSize PushButton::sizeHint() const {
  const bool is_link = rank_ == ButtonRank::link;
  const QFontMetricsF metrics(type_font(is_link ? Type::link : Type::button));
  double width = metrics.horizontalAdvance(text());
  for (const QString& other : room_for_) width = std::max(width, metrics.horizontalAdvance(other));
  return {static_cast<int>(std::ceil(width)) + (is_link ? 14 : 32), is_link ? 26 : 34};
}

void PushButton::keep_room_for(const QStringList& texts) {
  room_for_ = texts;
  updateGeometry();
}

void PushButton::paintEvent(QPaintEvent*) {
  if (rank_ == ButtonRank::link) {
    paint_link();
    return;
  }
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
  QColor fill = rank_ == ButtonRank::primary ? t.bill : t.sheet;
  QColor edge = rank_ == ButtonRank::primary ? t.bill : t.hairStrong;
  QColor ink = rank_ == ButtonRank::primary ? t.billInk : t.ink;
  if (!isEnabled()) {
    fill = t.sunk;
    edge = t.hair;
    ink = t.mute;
  } else if (isDown()) {
    fill = rank_ == ButtonRank::primary ? t.bill.darker(115) : t.sunk;
  } else if (underMouse()) {
    fill = rank_ == ButtonRank::primary ? t.bill.lighter(110) : t.hoverSheet;
  }
  p.setPen(edge);
  p.setBrush(fill);
  p.drawRoundedRect(box, 6, 6);
  p.setPen(ink);
  p.setFont(type_font(Type::button));
  p.drawText(rect(), Qt::AlignCenter, text());
  if (shows_focus()) draw_focus_ring(p, rect(), 6, t);
}

void PushButton::paint_link() {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  const QColor colour = isEnabled() ? t.water : t.mute;
  p.setPen(colour);
  QFont face = type_font(Type::link);
  face.setUnderline(underMouse() && isEnabled());
  p.setFont(face);
  const QFontMetricsF metrics(face);
  p.drawText(QRectF(0, 0, width(), height()), Qt::AlignVCenter | Qt::AlignLeft, text());
  const double x = metrics.horizontalAdvance(text()) + 5.5;
  const double y = height() / 2.0 + 0.5;
  p.setPen(QPen(colour, 1.5, Qt::SolidLine, Qt::RoundCap));
  p.drawPolyline(QPolygonF({{x, y - 3.2}, {x + 3.2, y}, {x, y + 3.2}}));
  if (shows_focus()) draw_focus_ring(p, rect(), 4, t);
}

}  // namespace heron
