#include "app/paint/heron_glyph.h"

#include <QPainterPath>

namespace heron {

void draw_heron(QPainter& p, const QRectF& box, const Theme& t) {
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  p.translate(box.topLeft());
  p.scale(box.width() / 32.0, box.height() / 32.0);
  QPainterPath body(QPointF(2.5, 21.5));
  body.cubicTo(7, 14.5, 13.5, 12.6, 18.2, 15.4);
  body.cubicTo(20.6, 17, 19.2, 21.2, 14.2, 22.2);
  body.cubicTo(10, 23, 6, 22.4, 2.5, 21.5);
  QPainterPath neck(QPointF(17.4, 17.6));
  neck.cubicTo(23.4, 14.4, 13.2, 10.6, 17.2, 5.4);
  p.setPen(Qt::NoPen);
  p.setBrush(t.slate);
  p.drawPath(body);
  p.drawEllipse(QPointF(18.2, 5.0), 2.5, 2.5);
  p.setBrush(t.bill);
  p.drawPolygon(QPolygonF({{19.6, 3.4}, {30, 5.2}, {19.6, 6.9}}));
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(t.slate, 2.5, Qt::SolidLine, Qt::RoundCap));
  p.drawPath(neck);
  p.setPen(QPen(t.slate, 1.5, Qt::SolidLine, Qt::RoundCap));
  p.drawLine(QPointF(12.5, 22), QPointF(12.5, 28.2));
  p.setPen(QPen(t.water, 1.8, Qt::SolidLine, Qt::RoundCap));
  p.drawLine(QPointF(3, 28.8), QPointF(28, 28.8));
  p.restore();
}

}  // namespace heron
