#include "app/table/row_delegate.h"

#include <QFontMetricsF>
#include <QPainter>
#include <QTableView>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/widget/painted_button.h"

namespace heron {
namespace {

void dash(QPainter& p, const QRectF& cell, const Theme& t) {
  p.fillRect(QRectF(cell.right() - 20, cell.center().y(), 8, 1), t.hairStrong);
}

}  // namespace

void draw_right_figure(QPainter& p, const QRectF& cell, const QString& text, bool strong,
                       const QColor& colour) {
  const Type type = strong ? Type::figure_chosen : Type::figure;
  const double width = figure_text_width(text, type, Type::body);
  draw_figure_text(p, {cell.right() - 10 - width, cell.center().y() + 4.5}, text, type, Type::body,
                   colour);
}

void draw_margin_cell(QPainter& p, const QRectF& cell, const std::optional<Judgement>& j,
                      const std::optional<double>& before, double span, const Theme& t) {
  if (j)
    draw_margin_line(p, cell.adjusted(14, 0, -14, 0), MarginSize::cell,
                     {j->verdict, j->margin, j->expanded, j->bound, before}, span, t);
}

void draw_verdict_cell(QPainter& p, const QRectF& cell, const std::optional<Judgement>& j,
                       const QString& word, const Theme& t, bool is_hollow) {
  const Verdict verdict = j ? j->verdict : Verdict::not_taken;
  draw_verdict(p, {cell.left() + 10, cell.center().y()}, 9, verdict, t, is_hollow);
  p.setFont(type_font(j ? Type::control_chosen : Type::control));
  p.setPen(j ? verdict_colour(t, verdict) : t.mute);
  p.drawText(QPointF(cell.left() + 20, cell.center().y() + 4.5), word);
}

RowDelegate::RowDelegate(QTableView* view) : QStyledItemDelegate(view), view_(view) {}

void RowDelegate::paint(QPainter* painter, const QStyleOptionViewItem& option,
                        const QModelIndex& index) const {
  const Theme& t = theme_of(view_);
  const bool chosen = view_->currentIndex().row() == index.row();
  const QRectF cell(option.rect);
  painter->save();
  const bool hovered =
      view_->underMouse() &&
      view_->indexAt(view_->viewport()->mapFromGlobal(QCursor::pos())).row() == index.row();
  if (chosen)
    painter->fillRect(cell, t.waterTint);
  else if (hovered)
    painter->fillRect(cell, t.hoverSheet);
  if (chosen && index.column() == 0)
    painter->fillRect(QRectF(cell.left(), cell.top(), 3, cell.height()), t.water);
  const bool next_chosen = view_->currentIndex().row() == index.row() + 1;
  if (!chosen && !next_chosen && index.row() + 1 < index.model()->rowCount()) {
    const double inset_left = index.column() == 0 ? 20 : 0;
    const double inset_right = index.column() + 1 == index.model()->columnCount() ? 20 : 0;
    painter->fillRect(QRectF(cell.left() + inset_left, cell.bottom() - 1,
                             cell.width() - inset_left - inset_right, 1),
                      t.hair);
  }
  if (chosen && has_keyboard_focus(view_) && index.column() == 0)
    painter->fillRect(QRectF(cell.left() + 3, cell.top(), 2, cell.height()), t.ink);
  paint_cell(*painter, cell, index, chosen, t);
  painter->restore();
}

void RowDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                             const Theme& t) const {
  const QString text = index.data().toString();
  if (index.column() == 0) {
    draw_figure_text(
        p, {cell.left() + 20, cell.center().y() + 4.5},
        elided_figure_text(text, Type::figure_chosen, Type::current, cell.width() - 24),
        Type::figure_chosen, Type::current, t.ink);
  } else if (text.isEmpty()) {
    dash(p, cell, t);
  } else {
    draw_right_figure(p, cell, text, false, chosen ? t.ink : t.slate);
  }
}

}  // namespace heron
