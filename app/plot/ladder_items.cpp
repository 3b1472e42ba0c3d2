#include "app/plot/ladder_items.h"

#include <algorithm>
#include <cmath>

#include "app/plot/ladder_plot.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/traces.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

QFont strong_label() {
  QFont font = type_font(Type::label);
  font.setWeight(QFont::DemiBold);
  return font;
}

}  // namespace

LadderBackdrop::LadderBackdrop(LadderPlot* plot) : QCPAbstractItem(plot), plot_(plot) {}

void LadderBackdrop::draw(QCPPainter* painter) {
  QCPPainter& p = *painter;
  const Theme& t = theme_of(plot_);
  const LadderPicture& picture = plot_->picture_;
  const QRectF r(plot_->axisRect()->rect());
  // The floor of each step: below it nothing can be seen.
  if (!picture.traces.empty()) {
    QPolygonF floor;
    for (const LadderPoint& point : picture.traces.front().points) {
      if (point.floor_db > -199.0)
        floor << QPointF(plot_->x_of(point.output_dbm),
                         std::min(r.bottom(), plot_->yAxis->coordToPixel(point.floor_db + 3.0)));
    }
    if (floor.size() > 1) {
      const QPointF first = floor.front();
      const QPointF last = floor.back();
      floor << QPointF(last.x(), r.bottom()) << QPointF(first.x(), r.bottom());
      p.setPen(Qt::NoPen);
      p.setBrush(t.floorTint);
      p.drawPolygon(floor);
    }
  }
  if (picture.sweet_dbm) {
    const double x = plot_->x_of(*picture.sweet_dbm);
    double top = r.bottom();
    for (const LadderTrace& trace : picture.traces) {
      if (const auto level = level_at(trace, *picture.sweet_dbm))
        top = std::min(top, plot_->yAxis->coordToPixel(level->value));
    }
    p.fillRect(QRectF(x - 9, top, 18, r.bottom() - top), t.passTint);
  }
  const auto ceiling = plot_->dragged_dbm_ ? plot_->dragged_dbm_ : picture.ceiling_dbm;
  if (ceiling) {
    QColor beyond = t.sunk;
    beyond.setAlphaF(0.75F);
    const double x = plot_->x_of(*ceiling);
    if (x < r.right()) p.fillRect(QRectF(x, r.top(), r.right() - x, r.height()), beyond);
  }
}

LadderOverlay::LadderOverlay(LadderPlot* plot) : QCPAbstractItem(plot), plot_(plot) {
  setClipToAxisRect(false);
}

void LadderOverlay::draw_titles(QCPPainter& p) const {
  const Theme& t = theme_of(plot_);
  const LadderPicture& picture = plot_->picture_;
  const QRectF r(plot_->axisRect()->rect());
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QRectF(3, 2, 320, 18), Qt::AlignVCenter, picture.y_title);
  p.setPen(t.mute);
  p.drawText(QRectF(r.right() - 260, 2, 312, 18), Qt::AlignRight | Qt::AlignVCenter,
             plot_->is_log_ ? QObject::tr("power axis logarithmic, X changes it")
                            : QObject::tr("power axis linear, X changes it"));
  p.setFont(strong_label());
  p.setPen(t.slate);
  p.drawText(QRectF(r.right() - 4, r.bottom() + 7, 54, 16), Qt::AlignRight | Qt::AlignVCenter,
             QObject::tr("W PEP"));
  const bool has_bounds =
      std::any_of(picture.traces.begin(), picture.traces.end(), [](const LadderTrace& trace) {
        return std::any_of(trace.points.begin(), trace.points.end(),
                           [](const LadderPoint& q) { return q.is_bound; });
      });
  if (has_bounds) {
    p.setFont(type_font(Type::label));
    p.setPen(t.slate);
    p.drawText(QRectF(r.left() + 6, r.bottom() - 20, 400, 16), Qt::AlignVCenter,
               QObject::tr("Recorder’s floor: open marks are upper bounds"));
  }
}

void LadderOverlay::draw_limit(QCPPainter& p) const {
  const LadderPicture& picture = plot_->picture_;
  if (!picture.limit_db) return;
  const Theme& t = theme_of(plot_);
  const QRectF r(plot_->axisRect()->rect());
  const double y = std::round(plot_->yAxis->coordToPixel(*picture.limit_db));
  p.fillRect(QRectF(r.left(), y - 1, r.width(), 2), t.ink);
  p.fillRect(QRectF(r.left(), y, 2, 6), t.ink);
  p.fillRect(QRectF(r.right() - 2, y, 2, 6), t.ink);
  p.setFont(strong_label());
  p.setPen(t.ink);
  p.drawText(QRectF(r.left() + 6, y - 18, 200, 16), Qt::AlignVCenter, picture.limit_words);
}

void LadderOverlay::draw_marks(QCPPainter& p) const {
  const Theme& t = theme_of(plot_);
  int number = 1;
  for (const LadderTrace& trace : plot_->picture_.traces) {
    if (trace.order > 9) break;
    const QColor colour = trace_pen(t, number++).color();
    for (const LadderPoint& q : trace.points) {
      const QPointF c(plot_->x_of(q.output_dbm), plot_->yAxis->coordToPixel(q.level_db));
      if (q.is_bound) {
        p.setPen(QPen(colour, 1.3));
        p.setBrush(t.sheet);
        p.drawEllipse(c, 3.6, 3.6);
        p.drawLine(c + QPointF(0, 4), c + QPointF(0, 11));
        p.drawLine(c + QPointF(-2.5, 8), c + QPointF(0, 11));
        p.drawLine(c + QPointF(2.5, 8), c + QPointF(0, 11));
        continue;
      }
      const double high = plot_->yAxis->coordToPixel(q.level_db + 2.0 * q.u_db);
      const double low = plot_->yAxis->coordToPixel(q.level_db - 2.0 * q.u_db);
      QColor bar = colour;
      bar.setAlphaF(0.42F);
      p.setPen(Qt::NoPen);
      p.setBrush(bar);
      p.drawRoundedRect(QRectF(c.x() - 2.5, high, 5, std::max(5.0, low - high)), 2.5, 2.5);
      p.setPen(QPen(t.sheet, 1.2));
      p.setBrush(colour);
      p.drawEllipse(c, 4, 4);
    }
  }
}

void LadderOverlay::draw_names(QCPPainter& p) const {
  const Theme& t = theme_of(plot_);
  const QRectF r(plot_->axisRect()->rect());
  struct Name {
    double wanted;
    double y;
    QString words;
    QPen pen;
  };
  std::vector<Name> names;
  int number = 1;
  for (const LadderTrace& trace : plot_->picture_.traces) {
    if (trace.order > 9) break;
    const double y = plot_->yAxis->coordToPixel(trace.points.back().level_db);
    names.push_back({y, y, QStringLiteral("IM%1").arg(trace.order), trace_pen(t, number++)});
  }
  std::sort(names.begin(), names.end(),
            [](const Name& a, const Name& b) { return a.wanted < b.wanted; });
  for (std::size_t i = 1; i < names.size(); ++i)
    names[i].y = std::max(names[i].y, names[i - 1].y + 15);
  p.setFont(strong_label());
  for (const Name& n : names) {
    p.setPen(n.pen);
    p.drawLine(QPointF(r.right() + 4, n.y), QPointF(r.right() + 20, n.y));
    p.setPen(t.ink);
    p.drawText(QRectF(r.right() + 24, n.y - 8, 30, 16), Qt::AlignVCenter, n.words);
  }
}

void LadderOverlay::draw_crossings(QCPPainter& p) const {
  const Theme& t = theme_of(plot_);
  const QRectF r(plot_->axisRect()->rect());
  double taken_right = -1e9;
  for (const auto& crossing : plot_->picture_.crossings) {
    const double x = plot_->x_of(crossing.dbm);
    if (x < r.left() || x > r.right()) continue;
    QColor band = t.ink;
    band.setAlphaF(0.10F);
    const double from = std::max(r.left(), plot_->x_of(crossing.dbm - crossing.expanded_db));
    const double to = std::min(r.right(), plot_->x_of(crossing.dbm + crossing.expanded_db));
    p.fillRect(QRectF(from, r.top() + 22, to - from, r.height() - 22), band);
    p.fillRect(QRectF(x - 0.75, r.top(), 1.5, r.height()), t.ink);
    p.setFont(strong_label());
    const double w = QFontMetricsF(p.font()).horizontalAdvance(crossing.words) + 20;
    // Flies to the emptier side: away from the ceiling and the edge.
    const bool to_left = x - w > r.left() && x > r.center().x();
    const double left = to_left ? x - w : x;
    const double y = left < taken_right + 6 ? r.top() + 22 : r.top() - 2;
    QPolygonF flag;
    if (to_left)
      flag << QPointF(x, y) << QPointF(left, y) << QPointF(left + 5, y + 10)
           << QPointF(left, y + 20) << QPointF(x, y + 20);
    else
      flag << QPointF(left, y) << QPointF(left + w, y) << QPointF(left + w - 5, y + 10)
           << QPointF(left + w, y + 20) << QPointF(left, y + 20);
    p.setPen(QPen(t.ink, 1.2));
    p.setBrush(t.sheet);
    p.drawPolygon(flag);
    p.drawText(QRectF(left, y, w, 20), Qt::AlignCenter, crossing.words);
    taken_right = left + w;
  }
}

void LadderOverlay::draw_pair(QCPPainter& p) const {
  const LadderPicture& picture = plot_->picture_;
  if (picture.driven.points.empty()) return;
  const Theme& t = theme_of(plot_);
  const QRectF r(plot_->axisRect()->rect());
  const QColor colour = trace_pen(t, 5).color();
  for (const DrivenComparison& m : picture.driven.measured) {
    const QPointF c(plot_->x_of(m.exciter_dbm), plot_->yAxis->coordToPixel(m.measured_db));
    p.setPen(QPen(t.sheet, 1.2));
    p.setBrush(colour);
    p.drawRect(QRectF(c.x() - 3.8, c.y() - 3.8, 7.6, 7.6));
  }
  // Beside the band's end, where the traces have fallen away below it.
  const DrivenPoint& last = picture.driven.points.back();
  const double middle = (last.in_phase_db + last.power_sum_db.value_or(last.in_phase_db)) / 2.0;
  const QPointF at(plot_->x_of(last.exciter_dbm), plot_->yAxis->coordToPixel(middle));
  p.setFont(type_font(Type::label));
  const double w = QFontMetricsF(p.font()).horizontalAdvance(picture.driven_words) + 6;
  QRectF box(std::min(at.x() + 8, r.right() - w), at.y() - 8, w, 16);
  if (picture.limit_db) {
    const double limit = plot_->yAxis->coordToPixel(*picture.limit_db);
    if (std::abs(box.center().y() - limit) < 11) box.moveBottom(limit - 3);
  }
  p.fillRect(box, t.sheet);
  p.setPen(colour);
  p.drawText(box, Qt::AlignCenter, picture.driven_words);
}

void LadderOverlay::draw_ceiling(QCPPainter& p) const {
  const LadderPicture& picture = plot_->picture_;
  const auto ceiling = plot_->dragged_dbm_ ? plot_->dragged_dbm_ : picture.ceiling_dbm;
  const Theme& t = theme_of(plot_);
  const QRectF r(plot_->axisRect()->rect());
  if (picture.chosen_dbm && !ceiling) {
    const double x = std::round(plot_->x_of(*picture.chosen_dbm));
    p.fillRect(QRectF(x, r.top(), 1, r.height()), t.water);
  }
  if (picture.sweet_dbm) {
    const double x = plot_->x_of(*picture.sweet_dbm);
    p.setFont(strong_label());
    const QString words = QObject::tr("sweet spot");
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 16;
    const QRectF tag(std::min(x - w / 2, r.right() - w), r.bottom() - 42, w, 17);
    p.setPen(Qt::NoPen);
    p.setBrush(t.passTint);
    p.drawRoundedRect(tag, 8.5, 8.5);
    p.setPen(t.pass);
    p.drawText(tag, Qt::AlignCenter, words);
  }
  if (picture.quiet_dbm && picture.quiet_dbm != picture.sweet_dbm) {
    const double quiet = plot_->x_of(*picture.quiet_dbm);
    p.setFont(type_font(Type::label));
    const QString words = QObject::tr("quietest");
    const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 8;
    const QRectF box(std::clamp(quiet - w / 2, r.left(), r.right() - w), r.bottom() - 40, w, 15);
    p.fillRect(QRectF(quiet - 0.5, r.bottom() - 24, 1, 24), t.slate);
    p.setPen(t.slate);
    p.drawText(box, Qt::AlignCenter, words);
  }
  if (!ceiling) return;
  const double x = std::round(plot_->x_of(*ceiling));
  p.fillRect(QRectF(x - 1, r.top(), 2, r.height()), t.water);
  const QString words =
      QObject::tr("ceiling %1 W").arg(qt_text(number_text(to_watt(Dbm{*ceiling}).value, 1)));
  p.setFont(strong_label());
  const double w = QFontMetricsF(p.font()).horizontalAdvance(words) + 28;
  const QRectF handle(std::min(x - 1, r.right() + 50 - w), r.top() - 4, w, 22);
  p.setPen(QPen(t.water, 1.5));
  p.setBrush(t.sheet);
  p.drawRoundedRect(handle, 6, 6);
  p.setPen(Qt::NoPen);
  p.setBrush(t.water);
  for (int row = 0; row < 3; ++row) {
    for (int dot = 0; dot < 2; ++dot)
      p.drawEllipse(QPointF(handle.left() + 9 + 4 * dot, handle.center().y() - 4 + 4 * row), 1, 1);
  }
  p.setPen(t.water);
  p.drawText(handle.adjusted(20, 0, 0, 0), Qt::AlignVCenter, words);
}

void LadderOverlay::draw(QCPPainter* painter) {
  QCPPainter& p = *painter;
  const Theme& t = theme_of(plot_);
  draw_titles(p);
  draw_limit(p);
  if (!plot_->picture_.empty_words.isEmpty()) {
    const QRectF r(plot_->axisRect()->rect());
    p.setFont(type_font(Type::question));
    const QRectF words = QFontMetricsF(p.font()).boundingRect(
        r.adjusted(60, 0, -60, 0), Qt::AlignCenter | Qt::TextWordWrap, plot_->picture_.empty_words);
    p.fillRect(words.adjusted(-8, -4, 8, 4), t.sheet);
    p.setPen(t.slate);
    p.drawText(r.adjusted(60, 0, -60, 0), Qt::AlignCenter | Qt::TextWordWrap,
               plot_->picture_.empty_words);
    return;
  }
  draw_crossings(p);
  draw_pair(p);
  draw_marks(p);
  draw_names(p);
  draw_ceiling(p);
}

}  // namespace heron
