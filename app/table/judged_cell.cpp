#include "app/table/judged_cell.h"

#include <QFontMetricsF>
#include <QPainter>

#include "app/paint/age_text.h"
#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr double kCellInset = 8.0;
constexpr double kUncertaintyFromPx = 118.0;
constexpr double kLinePx = 56.0;

/// Nothing to show, and nothing to do.
void draw_dash(QPainter& p, const QRectF& cell, const Theme& t) {
  p.fillRect(QRectF(cell.left() + kCellInset, cell.center().y(), 8, 1), t.hairStrong);
}

void draw_below(QPainter& p, const QRectF& box, const TableCell& content, const Theme& t) {
  const QString words = content.below.empty() ? age_text(content.read_at) : qt_text(content.below);
  p.setFont(content.is_below_strong ? strong_label() : type_font(Type::label));
  p.setPen(content.is_below_strong ? t.ink : t.mute);
  p.drawText(box, Qt::AlignRight | Qt::AlignVCenter, words);
}

}  // namespace

void draw_judged_cell(QPainter& p, const QRectF& cell, const TableCell& content, double span,
                      const Theme& t) {
  p.setRenderHint(QPainter::Antialiasing);
  const double middle = cell.center().y();
  const double first = middle - 9.5;
  const QRectF second(cell.left() + kCellInset, middle + 2, cell.width() - kCellInset - 10, 16);
  if (content.is_next) {
    p.setPen(QPen(t.water, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(cell.adjusted(3, 3, -3, -4), 5, 5);
  }
  if (content.text.empty()) {
    draw_dash(p, cell, t);
    return;
  }
  const double x = cell.left() + kCellInset;
  draw_verdict(p, {x + 5, first}, 9,
               content.judgement ? content.judgement->verdict : Verdict::not_taken, t,
               content.judgement && content.judgement->is_provisional);
  if (!content.figure) {
    p.setFont(type_font(content.is_next ? Type::control_chosen : Type::control));
    p.setPen(content.is_next ? t.water : t.mute);
    // The ring says the rest where there is little room.
    const bool is_narrow = cell.width() < kUncertaintyFromPx;
    draw_elided(p, QRectF(x + 16, first - 9, cell.right() - x - 22, 18), Qt::AlignVCenter,
                content.is_next && is_narrow ? QObject::tr("next") : qt_text(content.text));
    draw_below(p, second, content, t);
    return;
  }
  const QString text = qt_text(content.text);
  const auto at = text.indexOf(QStringLiteral(" \u00b1 "));
  const QString value = at < 0 ? text : text.left(at);
  const double w =
      draw_figure_text(p, {x + 16, first + 4.5}, value, Type::figure_chosen, Type::body, t.ink);
  if (at >= 0 && cell.width() >= kUncertaintyFromPx) {
    const QString rest = text.mid(at + 1);
    // Half a ± says less than none.
    if (x + 16 + w + 5 + figure_text_width(rest, Type::figure, Type::body) < cell.right() - 4)
      draw_figure_text(p, {x + 16 + w + 5, first + 4.5}, rest, Type::figure, Type::body, t.slate);
  }
  const double words_px = QFontMetricsF(strong_label())
                              .horizontalAdvance(content.below.empty() ? age_text(content.read_at)
                                                                       : qt_text(content.below));
  const double line_px = std::min(kLinePx, second.width() - words_px - 6);
  if (const auto& j = content.judgement)
    draw_margin_line(p, QRectF(x, middle + 2, line_px, 16), MarginSize::tiny,
                     {j->verdict, j->margin, j->expanded, j->bound, content.before}, span, t);
  draw_below(p, second, content, t);
}

void draw_words_cell(QPainter& p, const QRectF& cell, const ResultTable::Row::Words& words,
                     const Theme& t) {
  const QRectF box = cell.adjusted(kCellInset, 0, -8, 0);
  p.setFont(type_font(Type::control_chosen));
  p.setPen(t.ink);
  draw_elided(p, QRectF(box.left(), box.center().y() - 18, box.width(), 18), Qt::AlignVCenter,
              qt_text(words.words));
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(box.left(), box.center().y(), box.width(), 18), Qt::AlignVCenter,
              qt_text(words.why));
}

void draw_foot_cell(QPainter& p, const QRectF& cell, const TableCell& content, bool is_first,
                    const Theme& t) {
  p.setFont(content.opens ? strong_label() : type_font(Type::label));
  p.setPen(content.opens ? t.water : t.slate);
  draw_elided(p, cell.adjusted(is_first ? 20 : kCellInset, 0, -4, 0), Qt::AlignVCenter,
              qt_text(content.text));
}

}  // namespace heron
