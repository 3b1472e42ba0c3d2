#include "app/paint/margin_line.h"

#include <algorithm>
#include <cmath>

#include "app/paint/verdict_mark.h"

namespace heron {
namespace {

constexpr double kLimitAt = 0.36;

struct Sizes {
  double tick_width, tick_height, marker, bar;
};

Sizes sizes(MarginSize size) {
  switch (size) {
    case MarginSize::tiny:
      return {1, 11, 7, 4};
    case MarginSize::cell:
      return {2, 15, 8, 5};
    case MarginSize::large:
      return {2, 27, 14, 10};
  }
  return {1, 11, 7, 4};
}

void draw_off_scale(QPainter& p, double edge, double y, double size, bool left,
                    const QColor& colour) {
  const double d = left ? 1.0 : -1.0;
  p.setBrush(colour);
  p.setPen(Qt::NoPen);
  p.drawPolygon(QPolygonF(
      {{edge, y}, {edge + d * size, y - size * 0.62}, {edge + d * size, y + size * 0.62}}));
  p.fillRect(QRectF(left ? edge + size + 2 : edge - size - 4, y - size * 0.62, 2, size * 1.24),
             colour);
}

}  // namespace

double margin_position(double margin, double span) {
  return kLimitAt + (1.0 - kLimitAt) * std::asinh(margin / (span / 10.0)) / std::asinh(10.0);
}

void draw_margin_line(QPainter& p, const QRectF& box, MarginSize size, const MarginMark& mark,
                      double span, const Theme& t) {
  const Sizes s = sizes(size);
  const double y = std::floor(box.center().y()) + 0.5;
  const double left = box.left() + s.marker / 2;
  const double right = box.right() - s.marker / 2;
  const auto at = [&](double margin) {
    return left + margin_position(margin, span) * (right - left);
  };
  const double limit_x = std::round(at(0.0));
  p.save();
  p.setRenderHint(QPainter::Antialiasing);
  if (size == MarginSize::large) {
    p.fillRect(QRectF(box.left(), y - 6, limit_x - box.left(), 12), t.failTint);
    p.fillRect(QRectF(limit_x, y - 6, box.right() - limit_x, 12), t.passTint);
  }
  p.fillRect(QRectF(box.left(), y - 0.5, box.width(), 1), t.hairStrong);
  p.fillRect(QRectF(limit_x - s.tick_width / 2, y - s.tick_height / 2, s.tick_width, s.tick_height),
             size == MarginSize::large ? t.ink : t.slate);
  if (mark.before) {
    p.setPen(QPen(t.mute, 1.25));
    p.setBrush(t.sheet);
    p.drawEllipse(QPointF(std::clamp(at(*mark.before), left, right), y), s.marker / 2 - 0.5,
                  s.marker / 2 - 0.5);
  }
  if (mark.verdict == Verdict::not_taken) {
    p.restore();
    return;
  }
  const QColor colour = verdict_colour(t, mark.verdict);
  const double x = at(mark.margin);
  QColor bar = colour;
  bar.setAlphaF(t.is_dark ? 0.5F : 0.38F);
  p.setPen(Qt::NoPen);
  p.setBrush(bar);
  if (x < left || x > right) {
    draw_off_scale(p, x < left ? box.left() : box.right(), y, s.marker, x < left, colour);
  } else if (mark.bound != Bound::none) {
    p.drawRoundedRect(QRectF(x, y - s.bar / 2, right - x, s.bar), s.bar / 2, s.bar / 2);
    p.setBrush(t.sheet);
    p.setPen(QPen(colour, 1.4));
    p.drawEllipse(QPointF(x, y), s.marker / 2 - 0.7, s.marker / 2 - 0.7);
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(QPolygonF({{right - s.marker * 0.4, y - s.marker * 0.45},
                              {right + 1, y},
                              {right - s.marker * 0.4, y + s.marker * 0.45}}));
  } else {
    const double from = std::max(left, at(mark.margin - mark.expanded));
    const double to = std::min(right, at(mark.margin + mark.expanded));
    if (mark.expanded > 0.0)
      p.drawRoundedRect(QRectF(from, y - s.bar / 2, to - from, s.bar), s.bar / 2, s.bar / 2);
    draw_verdict(p, {x, y}, s.marker, mark.verdict, t);
  }
  p.restore();
}

}  // namespace heron
