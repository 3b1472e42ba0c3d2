// The level line, the suggested one, and margins; axes and bands are in level_diagram.cpp.
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "app/hookup/level_diagram.h"
#include "app/paint/figure_text.h"
#include "app/paint/focus_ring.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "app/widget/painted_button.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

void LevelDiagram::paint_levels(QPainter& p) const {
  const Theme& t = theme_of(this);
  const HookupColumns c = columns();
  const double crest = peak_to_average_db(scene_->drive);
  QPolygonF top;
  QPolygonF bottom;
  const auto add = [&](double x, double dbm) {
    top << QPointF(x, y_of(dbm));
    bottom << QPointF(x, y_of(dbm - crest));
  };
  add(c.centre(0), scene_->drive.pep_dbm);
  for (int i = 1; i < c.count; ++i) {
    const ChainNode* node = scene_->node(i);
    if (node == nullptr) break;
    // Flat across a part, which must take it, then down at the column's right edge.
    const double left = c.box(i, 0, 1).right() - c.node() - (c.column() - c.node()) / 2;
    const double right = c.centre(i) + c.column() / 2;
    add(left, node->level_dbm);
    const bool is_last = i + 1 == c.count;
    add(is_last ? c.box(i, 0, 1).right() : right, node->level_dbm);
  }
  if (crest > 0.0) {
    QPolygonF ribbon = top;
    for (auto it = bottom.crbegin(); it != bottom.crend(); ++it) ribbon << *it;
    QColor tint = t.water;
    tint.setAlphaF(t.is_dark ? 0.22F : 0.16F);
    p.setPen(Qt::NoPen);
    p.setBrush(tint);
    p.drawPolygon(ribbon);
    p.setPen(QPen(t.water, 1));
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(bottom);
  }
  p.setPen(QPen(t.water, 2.2));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(top);
  p.setBrush(t.sheet);
  p.setPen(QPen(t.water, 1.8));
  p.drawEllipse(top.front(), 4, 4);

  const double x0 = c.box(0, 0, 1).left();
  const double y0 = y_of(scene_->drive.pep_dbm);
  const QString source = qt_text(number_text(scene_->drive.pep_dbm, 1, true)) +
                         (crest > 0.0 ? tr(" dBm PEP") : tr(" dBm"));
  const auto put = [&](double x, double y, const QString& words, Type figure, Type label,
                       const QColor& colour) {
    const QRectF place =
        room_.take(QRectF(x - 2, y - 11, figure_text_width(words, figure, label) + 4, 14));
    QColor backing = t.sheet;
    backing.setAlphaF(0.75F);
    p.fillRect(place, backing);
    draw_figure_text(p, {x, place.top() + 11}, words, figure, label, colour);
  };
  put(x0, y0 - 10, source, Type::figure_chosen, Type::control_chosen, t.ink);
  if (crest > 0.0)
    put(x0, y_of(scene_->drive.pep_dbm - crest) + 17,
        tr("mean %1").arg(qt_text(number_text(scene_->drive.pep_dbm - crest, 1, true))),
        Type::figure_small, Type::label, t.mute);
  for (int i = 2; i < c.count; ++i) {
    const ChainNode* node = scene_->node(i);
    if (node == nullptr) break;
    const QString words = qt_text(number_text(node->level_dbm, 1, true));
    const double x = c.box(i, 0, 1).left() + 4;
    // Under the line where a rating's words stand just above it.
    const Part& part = scene_->part(i);
    const auto near = part.full_scale_dbm ? part.full_scale_dbm : average_dbm(part);
    const bool is_crowded = near && *near > node->level_dbm &&
                            y_of(node->level_dbm) - y_of(*near) < (part.full_scale_dbm ? 18 : 34);
    const double y = is_crowded ? y_of(node->level_dbm - crest) + 14 : y_of(node->level_dbm) - 6;
    put(x, y, words, Type::figure, Type::label, t.ink);
  }
}

void LevelDiagram::paint_ghost(QPainter& p) const {
  if (!scene_->swap || !scene_->result) return;
  const Theme& t = theme_of(this);
  const HookupColumns c = columns();
  ChainResult then;
  try {
    then = evaluate_chain(scene_->swap->chain, scene_->drive);
  } catch (const InputError&) {
    return;
  }
  // An added part has no column of its own: the ghost starts where the first one differs.
  const int shift = scene_->swap->is_added ? 1 : 0;
  const int first = static_cast<int>(scene_->swap->first) + 1 - shift;
  QPolygonF line;
  for (int i = first + 1; i < c.count; ++i) {
    const std::size_t k = static_cast<std::size_t>(i) - 1 + static_cast<std::size_t>(shift);
    if (k >= then.nodes.size()) break;
    const double left = c.centre(i) - c.column() / 2;
    if (line.isEmpty()) line << QPointF(left, y_of(scene_->node(i)->level_dbm));
    line << QPointF(left, y_of(then.nodes[k].level_dbm))
         << QPointF(i + 1 == c.count ? c.box(i, 0, 1).right() : c.centre(i) + c.column() / 2,
                    y_of(then.nodes[k].level_dbm));
  }
  QPen pen(t.mute, 1.5);
  pen.setDashPattern({3.2, 2.6});
  p.setPen(pen);
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(line);
  if (line.isEmpty()) return;
  const QString words = qt_text(number_text(scene_->swap->end_level_dbm, 1, true));
  const double w = figure_text_width(words, Type::figure, Type::label);
  const QRectF place = room_.take(QRectF(line.back().x() - w - 6, line.back().y() - 16, w + 4, 14));
  draw_figure_text(p, {place.left() + 2, place.top() + 11}, words, Type::figure, Type::label,
                   t.mute);
}

void LevelDiagram::paint_margin(QPainter& p, int column) const {
  const Theme& t = theme_of(this);
  const NodeVerdict* v = scene_->verdict(column);
  const ChainNode* node = scene_->node(column);
  if (v == nullptr || node == nullptr || !v->margin_db || !v->limit_dbm) return;
  const QRectF box = columns().box(column, 0, 1);
  const double from = node->level_dbm - (v->is_average ? peak_to_average_db(scene_->drive) : 0.0);
  if (*v->margin_db >= 0.0 && v->range == RangePlace::not_bound) {
    const double x = std::round(box.right() - 20) + 0.5;
    const double y1 = y_of(from);
    double y2 = y_of(*v->limit_dbm);
    // A rating's words may stand in its way.
    for (const QRectF& label : room_.taken()) {
      if (label.left() <= x + 3 && label.right() >= x - 3 && label.bottom() > y2 &&
          label.top() < (y1 + y2) / 2)
        y2 = std::max(y2, label.bottom() + 1);
    }
    if (y1 - y2 > 14) {
      p.setPen(QPen(t.ink, 1));
      p.drawLine(QPointF(x, y1), QPointF(x, y2 + 1));
      p.setBrush(t.ink);
      p.setPen(Qt::NoPen);
      p.drawPolygon(QPolygonF({{x, y2 + 1}, {x - 2.5, y2 + 7}, {x + 2.5, y2 + 7}}));
      p.drawPolygon(QPolygonF({{x, y1}, {x - 2.5, y1 - 6}, {x + 2.5, y1 - 6}}));
    }
    const QString words = qt_text(number_text(*v->margin_db, 1)) + " dB";
    const double w = figure_text_width(words, Type::figure_chosen, Type::control_chosen);
    const double y = (y1 + y2) / 2;
    const double left = std::max(box.left() - 8, x - 8 - w);
    const QRectF place = room_.take(QRectF(left - 2, y - 8, w + 4, 16));
    p.fillRect(place, t.sheet);
    draw_figure_text(p, {left, place.top() + 12}, words, Type::figure_chosen, Type::control_chosen,
                     t.ink);
    return;
  }
  if (*v->margin_db >= 0.0) return;
  // Over: shape and figure in verdict colour, the condition beneath.
  const bool is_low = v->range == RangePlace::too_low;
  const bool is_range = v->range != RangePlace::not_bound;
  const QString words =
      scene_->part(column).best_input_dbm && is_range
          ? tr("%1 dB too %2")
                .arg(qt_text(number_text(-*v->margin_db, 1)), is_low ? tr("low") : tr("high"))
          : tr("%1 dB over").arg(qt_text(number_text(-*v->margin_db, 1)));
  const double x = box.left() + 4;
  double y = y_of(std::min(from, *v->limit_dbm)) + 26;
  if (is_range)
    y = is_low ? y_of(from) + 16 : y_of(scene_->part(column).best_input_dbm->first) + 14;
  y = std::min(y, plot().bottom() - 22);
  const QString condition =
      is_range ? QString()
      : node->max_key_down_s && *node->max_key_down_s > 0.0
          ? tr("safe for %1").arg(qt_text(duration_text(std::floor(*node->max_key_down_s))))
          : tr("0 s");
  const double w =
      std::max(QFontMetricsF(type_font(Type::control_chosen)).horizontalAdvance(words) + 20,
               QFontMetricsF(type_font(Type::label)).horizontalAdvance(condition));
  const QRectF place = room_.take(QRectF(x - 3, y - 11, w + 6, condition.isEmpty() ? 18.0 : 33.0));
  y = place.top() + 11;
  p.fillRect(place, t.sheet);
  draw_verdict(p, {x + 5, y - 2}, 9, v->verdict, t);
  p.setFont(type_font(Type::control_chosen));
  p.setPen(verdict_colour(t, v->verdict));
  p.drawText(QPointF(x + 14, y + 2), words);
  if (condition.isEmpty()) return;
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  p.drawText(QPointF(x, y + 17), condition);
}

}  // namespace heron
