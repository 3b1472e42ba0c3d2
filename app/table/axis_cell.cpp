#include "app/table/axis_cell.h"

#include <QFontMetricsF>
#include <QPainter>
#include <algorithm>
#include <array>
#include <cmath>

#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kAxisInset = 14.0;
constexpr double kAxisLane = 7.0;
constexpr double kPart = 5.0;

struct Scale {
  Scale(const QRectF& cell, const TableAxis& axis)
      : left(cell.left() + kAxisInset), width(cell.width() - 2.0 * kAxisInset), most(axis.most) {}
  double at(double v) const {
    return left + width * (std::clamp(v, -most, most) + most) / (2.0 * most);
  }
  double left;
  double width;
  double most;
};

void draw_parts(QPainter& p, const QRectF& cell, const Scale& x, const AxisCell& c,
                const Theme& t) {
  // The order says which oscillator, filter or step it is; colour only helps.
  static constexpr std::array kTraces{1, 3, 4, 5};
  const double lanes = static_cast<double>(c.parts.size());
  double y = cell.center().y() - (lanes - 1.0) / 2.0 * kAxisLane;
  double sum = 0.0;
  for (std::size_t i = 0; i < c.parts.size(); ++i, y += kAxisLane) {
    if (c.parts[i] == 0.0) continue;
    const double from = x.at(sum);
    sum += c.parts[i];
    const double to = x.at(sum);
    p.fillRect(
        QRectF(std::min(from, to), y - kPart / 2.0, std::max(1.0, std::abs(to - from)), kPart),
        trace_pen(t, kTraces[i % kTraces.size()]).color());
    if (i + 1 < c.parts.size()) p.fillRect(QRectF(to - 0.5, y, 1.0, kAxisLane), t.slate);
  }
  p.fillRect(QRectF(x.at(c.value) - 1.0, cell.center().y() - 11.0, 2.0, 22.0), t.ink);
}

}  // namespace

void draw_axis_cell(QPainter& p, const QRectF& cell, const TableAxis& axis,
                    const std::optional<AxisCell>& content, const Theme& t) {
  const Scale x(cell, axis);
  if (axis.tolerance) {
    const double low = x.at(-*axis.tolerance);
    const double high = x.at(*axis.tolerance);
    p.fillRect(QRectF(low, cell.top(), high - low, cell.height()), t.passTint);
    for (const double edge : {low, high})
      p.fillRect(QRectF(edge - 1.0, cell.top(), 2.0, cell.height()), t.ink);
  }
  if (axis.together) {
    QColor shade = t.ink;
    shade.setAlphaF(0.10F);
    const double low = x.at(axis.together->first);
    p.fillRect(QRectF(low, cell.top(), x.at(axis.together->second) - low, cell.height()), shade);
  }
  p.fillRect(QRectF(x.at(0.0) - 0.5, cell.top(), 1.0, cell.height()), t.hairStrong);
  if (!content) return;
  if (!content->parts.empty()) {
    draw_parts(p, cell, x, *content, t);
    return;
  }
  QColor colour = content->is_whole ? t.ink : t.water;
  const double y = cell.center().y();
  const double low = x.at(content->value - content->expanded);
  QColor bar = colour;
  bar.setAlphaF(0.38F);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(bar);
  p.drawRoundedRect(QRectF(low, y - 2.5, x.at(content->value + content->expanded) - low, 5.0), 2.5,
                    2.5);
  // Beyond the scale it points outward.
  if (std::abs(content->value) > axis.most) {
    const double edge = x.at(content->value);
    const double back = content->value > 0.0 ? -7.0 : 7.0;
    p.setBrush(colour);
    p.drawPolygon(QPolygonF{{edge, y}, {edge + back, y - 4.5}, {edge + back, y + 4.5}});
    return;
  }
  p.setBrush(colour);
  p.drawEllipse(QPointF(x.at(content->value), y), 4.0, 4.0);
}

void draw_axis_head(QPainter& p, const QRectF& head, const TableAxis& axis, const Theme& t) {
  const Scale x(head, axis);
  QFont strong = type_font(Type::label);
  strong.setWeight(QFont::DemiBold);
  const auto say = [&](double v, const QString& text) {
    const double width = QFontMetricsF(p.font()).horizontalAdvance(text) + 2.0;
    QRectF box(x.at(v) - width / 2.0, head.top(), width, head.height());
    // The two of a narrow one stand outside its sides.
    if (v < 0.0) box.moveRight(std::min(box.right(), x.at(0.0) - 3.0));
    if (v > 0.0) box.moveLeft(std::max(box.left(), x.at(0.0) + 3.0));
    p.drawText(box, Qt::AlignCenter, text);
  };
  p.setFont(type_font(Type::label));
  p.setPen(t.mute);
  // Where a tolerance is narrow its sides need the room.
  constexpr double kNarrow = 34.0;
  if (!axis.tolerance || x.at(*axis.tolerance) - x.at(0.0) > kNarrow) say(0.0, QStringLiteral("0"));
  if (!axis.tolerance) return;
  p.setFont(strong);
  p.setPen(t.slate);
  const int decimals = *axis.tolerance < 1.0 ? (*axis.tolerance < 0.1 ? 2 : 1) : 0;
  for (const double side : {-1.0, 1.0})
    say(side * *axis.tolerance, qt_text(number_text(side * *axis.tolerance, decimals, true)));
}

}  // namespace heron
