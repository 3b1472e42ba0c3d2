#include "app/table/row_delegate.h"

#include <QFontMetricsF>
#include <QPainter>
#include <QTableView>

#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/table/ladder_model.h"
#include "app/table/product_model.h"
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
                      double span, const Theme& t) {
  if (j)
    draw_margin_line(p, cell.adjusted(14, 0, -14, 0), MarginSize::cell,
                     {j->verdict, j->margin, j->expanded, j->bound, std::nullopt}, span, t);
}

void draw_verdict_cell(QPainter& p, const QRectF& cell, const std::optional<Judgement>& j,
                       const QString& word, const Theme& t) {
  const Verdict verdict = j ? j->verdict : Verdict::not_taken;
  draw_verdict(p, {cell.left() + 10, cell.center().y()}, 9, verdict, t);
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

void LadderDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                bool chosen, const Theme& t) const {
  const auto* model = static_cast<const LadderModel*>(index.model());
  const LadderModel::Row& row = model->row(index.row());
  const double baseline = cell.center().y() + 4.5;
  switch (index.column()) {
    case LadderModel::kStep: {
      const double w = draw_figure_text(
          p, {cell.left() + 20, baseline},
          elided_figure_text(row.step, Type::figure_chosen, Type::current, cell.width() - 26),
          Type::figure_chosen, Type::current, row.is_taken ? t.ink : t.mute);
      const double x = cell.left() + 20 + std::max(w + 10, 44.0);
      p.setFont(type_font(Type::label));
      const QString words =
          row.is_sweet_spot && !chosen ? QObject::tr("sweet spot") : QObject::tr("plotted above");
      const double words_width = QFontMetricsF(p.font()).horizontalAdvance(words);
      if (x + words_width > cell.right() - 2) return;
      if (chosen && row.is_taken) {
        p.setPen(t.water);
        p.drawText(QPointF(x, baseline - 0.5), words);
      } else if (row.is_sweet_spot) {
        const QRectF tag(x - 2, cell.center().y() - 8.5, words_width + 16, 17);
        p.setRenderHint(QPainter::Antialiasing);
        p.setPen(Qt::NoPen);
        p.setBrush(t.passTint);
        p.drawRoundedRect(tag, 8.5, 8.5);
        p.setPen(t.pass);
        p.drawText(tag, Qt::AlignCenter, words);
      }
      return;
    }
    case LadderModel::kIm3:
    case LadderModel::kIm5:
    case LadderModel::kIm7:
    case LadderModel::kIm9: {
      const int k = index.column() - LadderModel::kIm3;
      if (row.im[k].isEmpty())
        dash(p, cell, t);
      else
        draw_right_figure(p, cell, row.im[k], row.deciding == k,
                          row.deciding == k ? t.ink : t.slate);
      return;
    }
    case LadderModel::kWorst: {
      if (row.worst.isEmpty()) {
        dash(p, cell, t);
        return;
      }
      // Values align on their decimal point whatever stands behind the ±.
      const double u_width = row.worst_u.isEmpty()
                                 ? 0.0
                                 : figure_text_width(row.worst_u, Type::figure, Type::body) + 15;
      const double right = cell.right() - 8 - 42;
      const double value_width = figure_text_width(row.worst, Type::figure_chosen, Type::body);
      draw_figure_text(p, {right - value_width, baseline}, row.worst, Type::figure_chosen,
                       Type::body, t.ink);
      if (u_width > 0.0)
        draw_figure_text(p, {right + 4, baseline}, QString::fromUtf8("± ") + row.worst_u,
                         Type::figure, Type::body, t.slate);
      return;
    }
    case LadderModel::kMargin:
      draw_margin_line(p, cell.adjusted(14, 0, -14, 0), MarginSize::cell, row.mark,
                       model->margin_span(), t);
      return;
    case LadderModel::kVerdict: {
      const QPointF c(cell.left() + 10, cell.center().y());
      const bool judged = row.has_limit && row.is_taken && !row.worst.isEmpty();
      draw_verdict(p, c, 9, judged ? row.mark.verdict : Verdict::not_taken, t);
      p.setFont(type_font(judged ? Type::control_chosen : Type::control));
      p.setPen(judged ? verdict_colour(t, row.mark.verdict) : t.mute);
      p.drawText(QPointF(cell.left() + 20, baseline), index.data().toString());
      return;
    }
    default:
      RowDelegate::paint_cell(p, cell, index, chosen, t);
  }
}

void ProductDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                                 bool chosen, const Theme& t) const {
  const auto* model = static_cast<const ProductModel*>(index.model());
  const bool is_level =
      index.column() == ProductModel::kOneTone || index.column() == ProductModel::kPep;
  if (is_level)
    draw_right_figure(p, cell, index.data().toString(), model->is_worst(index.row()),
                      model->is_worst(index.row()) ? t.ink : t.slate);
  else if (index.column() == ProductModel::kFloor) {
    p.setFont(type_font(Type::figure));
    p.setPen(t.mute);
    p.drawText(cell.adjusted(0, 0, -10, 0), Qt::AlignRight | Qt::AlignVCenter,
               index.data().toString());
  } else {
    RowDelegate::paint_cell(p, cell, index, chosen, t);
  }
}

}  // namespace heron
