#include "app/device/story_model.h"

#include <QPainter>

#include "app/paint/age_text.h"
#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

QString kind_words(StoryRow::Kind kind) {
  switch (kind) {
    case StoryRow::Kind::evaluation:
      return QObject::tr("Evaluation");
    case StoryRow::Kind::work:
      return QObject::tr("Work done");
    case StoryRow::Kind::outside:
      return QObject::tr("From elsewhere");
    case StoryRow::Kind::note:
      return QObject::tr("Note");
  }
  return {};
}

/// A small flag on its pole: something was done.
void draw_pennant(QPainter& p, QPointF c, const Theme& t) {
  p.setPen(QPen(t.ink, 1.4));
  p.setBrush(Qt::NoBrush);
  p.drawLine(c + QPointF(-4, -6), c + QPointF(-4, 7));
  p.drawPolygon(QPolygonF({c + QPointF(-4, -6), c + QPointF(5, -6), c + QPointF(2.5, -3),
                           c + QPointF(5, 0), c + QPointF(-4, 0)}));
}

void draw_mark(QPainter& p, QPointF c, const StoryRow& row, const Theme& t) {
  p.setRenderHint(QPainter::Antialiasing);
  switch (row.kind) {
    case StoryRow::Kind::evaluation:
      draw_verdict(p, c, 10, row.verdict, t);
      return;
    case StoryRow::Kind::work:
      draw_pennant(p, c, t);
      return;
    case StoryRow::Kind::outside:
      p.setPen(QPen(t.slate, 1.4));
      p.setBrush(t.sheet);
      p.drawRect(QRectF(c.x() - 4.5, c.y() - 4.5, 9, 9));
      return;
    case StoryRow::Kind::note:
      p.setPen(Qt::NoPen);
      p.setBrush(t.mute);
      p.drawEllipse(c, 2.5, 2.5);
      return;
  }
}

}  // namespace

void StoryModel::set_rows(std::vector<StoryRow> rows) {
  beginResetModel();
  rows_ = std::move(rows);
  endResetModel();
}

QVariant StoryModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::AccessibleTextRole && role != Qt::ToolTipRole)
    return {};
  const StoryRow& r = row(index.row());
  switch (index.column()) {
    case kAge:
      return role == Qt::ToolTipRole ? qt_text(r.at.substr(0, 10)) : age_text(r.at);
    case kWhat:
      return kind_words(r.kind) + ": " + qt_text(r.title) +
             (r.detail.empty() ? QString() : ". " + qt_text(r.detail));
    case kEffect:
      if (r.effect) return qt_text(r.effect->what + ", " + r.effect->words);
      return r.verdict == Verdict::not_taken ? QString() : qt_text(verdict_word(r.verdict));
    default:
      return {};
  }
}

void StoryDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool,
                               const Theme& t) const {
  const StoryRow& row = static_cast<const StoryModel*>(index.model())->row(index.row());
  const double y = cell.top();
  const QRectF first(cell.left() + 8, y + 3, cell.width() - 16, 18);
  const QRectF second = first.translated(0, 16);
  switch (index.column()) {
    case StoryModel::kAge: {
      const double x = cell.right() - 16;
      const bool is_last = index.row() + 1 == index.model()->rowCount();
      p.fillRect(QRectF(x, index.row() == 0 ? y + 12 : y, 1,
                        is_last ? 12 : cell.height() - (index.row() == 0 ? 12 : 0)),
                 t.hairStrong);
      p.fillRect(QRectF(x - 7, y + 4, 15, 16), t.sheet);
      draw_mark(p, {x + 0.5, y + 12}, row, t);
      p.setFont(type_font(Type::label));
      p.setPen(t.slate);
      p.drawText(QRectF(cell.left() + 20, y + 3, x - cell.left() - 30, 18), Qt::AlignVCenter,
                 age_text(row.at));
      return;
    }
    case StoryModel::kWhat: {
      double x = first.left();
      if (row.kind == StoryRow::Kind::evaluation) {
        p.setFont(type_font(Type::body));
        p.setPen(t.slate);
        const QString word = kind_words(row.kind);
        p.drawText(first, Qt::AlignVCenter, word);
        x += QFontMetricsF(p.font()).horizontalAdvance(word) + 8;
      }
      const bool is_link = row.kind == StoryRow::Kind::evaluation;
      p.setFont(type_font(is_link ? Type::current : Type::name));
      p.setPen(is_link ? t.water : t.ink);
      draw_elided(p, QRectF(x, first.top(), first.right() - x, 18), Qt::AlignVCenter,
                  qt_text(row.title));
      p.setFont(type_font(Type::label));
      p.setPen(t.slate);
      draw_elided(p, second, Qt::AlignVCenter, qt_text(row.detail));
      return;
    }
    case StoryModel::kEffect:
      if (row.effect) {
        const QString what = qt_text(row.effect->what);
        const double w = figure_text_width(what, Type::figure, Type::body);
        draw_figure_text(p, {std::max(first.left(), first.right() - w), y + 16.5}, what,
                         Type::figure, Type::body, t.ink);
        p.setFont(type_font(Type::label));
        p.setPen(t.slate);
        draw_elided(p, second, Qt::AlignRight | Qt::AlignVCenter, qt_text(row.effect->words));
      }
      return;
    case StoryModel::kMargin:
      if (row.effect && row.effect->after) {
        const Judgement& j = *row.effect->after;
        draw_margin_line(p, QRectF(cell.left() + 6, y + 4, cell.width() - 26, 16), MarginSize::tiny,
                         {j.verdict, j.margin, j.expanded, j.bound, row.effect->before_margin},
                         row.effect->span, t);
      } else if (row.kind == StoryRow::Kind::evaluation && row.verdict != Verdict::not_taken) {
        p.setFont(type_font(Type::control_chosen));
        p.setPen(verdict_colour(t, row.verdict));
        p.drawText(QRectF(cell.left(), y + 3, cell.width() - 20, 18),
                   Qt::AlignRight | Qt::AlignVCenter, qt_text(verdict_word(row.verdict)));
      }
      return;
    default:
      return;
  }
}

}  // namespace heron
