#include "app/paint/verdict_mark.h"

#include <QPainterPath>
#include <algorithm>

#include "app/theme/qt_text.h"

namespace heron {

QColor verdict_colour(const Theme& theme, Verdict verdict) {
  switch (verdict) {
    case Verdict::pass:
      return theme.pass;
    case Verdict::too_close:
    case Verdict::incomplete:
      return theme.marg;
    case Verdict::fail:
      return theme.fail;
    case Verdict::stale:
    case Verdict::accepted:
      return theme.slate;
    case Verdict::not_taken:
      return theme.mute;
  }
  return theme.mute;
}

QColor verdict_tint(const Theme& theme, Verdict verdict) {
  switch (verdict) {
    case Verdict::pass:
      return theme.passTint;
    case Verdict::too_close:
    case Verdict::incomplete:
      return theme.margTint;
    case Verdict::fail:
      return theme.failTint;
    default:
      return theme.sunk;
  }
}

void draw_verdict(QPainter& p, QPointF c, double size, Verdict verdict, const Theme& theme,
                  bool is_hollow) {
  const double line = std::max(1.3, size * 0.14);
  const double d = is_hollow ? size - line : size;
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  const QColor colour = verdict_colour(theme, verdict);
  const QPen inner(theme.is_dark ? theme.sunk : QColor(Qt::white), d * 0.12, Qt::SolidLine,
                   Qt::RoundCap, Qt::RoundJoin);
  if (is_hollow) {
    p.setPen(QPen(colour, line, Qt::SolidLine, Qt::FlatCap, Qt::MiterJoin));
    p.setBrush(Qt::NoBrush);
  } else {
    p.setPen(Qt::NoPen);
    p.setBrush(colour);
  }
  const bool has_inner = size >= 12 && !is_hollow;
  switch (verdict) {
    case Verdict::pass:
      p.drawEllipse(c, d / 2, d / 2);
      if (has_inner) {
        p.setPen(inner);
        p.setBrush(Qt::NoBrush);
        p.drawPolyline(
            QPolygonF({c + QPointF(-0.22 * d, 0.02 * d), c + QPointF(-0.05 * d, 0.19 * d),
                       c + QPointF(0.24 * d, -0.17 * d)}));
      }
      break;
    case Verdict::too_close: {
      const double h = 0.58 * d;
      p.drawPolygon(QPolygonF(
          {c + QPointF(0, -h), c + QPointF(h, 0), c + QPointF(0, h), c + QPointF(-h, 0)}));
      if (has_inner) {
        QPainterPath wave(c + QPointF(-0.26 * d, 0.05 * d));
        wave.cubicTo(c + QPointF(-0.12 * d, -0.2 * d), c + QPointF(0.12 * d, 0.2 * d),
                     c + QPointF(0.26 * d, -0.05 * d));
        p.setPen(inner);
        p.setBrush(Qt::NoBrush);
        p.drawPath(wave);
      }
      break;
    }
    case Verdict::fail: {
      const double w = 0.56 * d;
      p.drawPolygon(QPolygonF(
          {c + QPointF(-w, -0.45 * d), c + QPointF(w, -0.45 * d), c + QPointF(0, 0.52 * d)}));
      if (has_inner) {
        p.setPen(inner);
        p.drawLine(c + QPointF(-0.18 * d, -0.18 * d), c + QPointF(0.18 * d, -0.18 * d));
      }
      break;
    }
    case Verdict::stale: {
      const double r = d / 2 - 0.6;
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(colour, std::max(1.2, d * 0.11)));
      const QRectF ring(c.x() - r, c.y() - r, 2 * r, 2 * r);
      p.drawArc(ring, 35 * 16, 110 * 16);
      p.drawArc(ring, 215 * 16, 110 * 16);
      p.setPen(Qt::NoPen);
      p.setBrush(colour);
      p.drawEllipse(c, d * 0.16, d * 0.16);
      break;
    }
    case Verdict::incomplete: {
      // Half of a whole: what was seen is good.
      const double r = d / 2 - 0.6;
      const QRectF disc(c.x() - r, c.y() - r, 2 * r, 2 * r);
      p.drawPie(disc, 90 * 16, 180 * 16);
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(colour, std::max(1.2, d * 0.11)));
      p.drawEllipse(disc);
      break;
    }
    case Verdict::accepted: {
      // Neither: a square, with the tick of somebody who looked.
      const double r = 0.44 * d;
      p.drawRoundedRect(QRectF(c.x() - r, c.y() - r, 2 * r, 2 * r), 0.14 * d, 0.14 * d);
      if (has_inner) {
        p.setPen(inner);
        p.drawLine(c + QPointF(-0.2 * d, 0.0), c + QPointF(0.2 * d, 0.0));
      }
      break;
    }
    case Verdict::not_taken:
      p.setBrush(Qt::NoBrush);
      p.setPen(QPen(colour, 1.25));
      p.drawEllipse(c, d / 2 - 0.7, d / 2 - 0.7);
      break;
  }
  p.restore();
}

}  // namespace heron
