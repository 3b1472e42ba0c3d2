#include "app/widget/figure_card.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/paint/margin_line.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"

namespace heron {

FigureCardView::FigureCardView(QWidget* parent) : Card(parent) {
  setFixedHeight(112);
  hide();
}

void FigureCardView::set_card(const FigureCard* card) {
  setVisible(card != nullptr);
  text_.clear();
  if (card == nullptr) return;
  card_ = *card;
  text_ = qt_text(card_.head + ": " + card_.value + ", " + card_.caption);
  if (card_.judgement) text_ += ", " + qt_text(verdict_word(card_.judgement->verdict));
  setAccessibleName(text_);
  update();
}

void FigureCardView::paintEvent(QPaintEvent* event) {
  Card::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  double right = width() - 16;
  if (const auto& j = card_.judgement) {
    const QString word = qt_text(verdict_word(j->verdict));
    p.setFont(type_font(Type::control_chosen));
    p.setPen(verdict_colour(t, j->verdict));
    const double w = QFontMetricsF(p.font()).horizontalAdvance(word);
    p.drawText(QRectF(right - w, 10, w, 18), Qt::AlignVCenter, word);
    draw_verdict(p, {right - w - 11, 19}, 9, j->verdict, t, j->is_provisional);
    right -= w + 22;
  }
  p.setFont(type_font(Type::control));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 10, right - 16, 18), Qt::AlignVCenter, qt_text(card_.head));
  draw_figure_text(p, {16, 54}, qt_text(card_.value), Type::readout_small, Type::body, t.ink);
  if (const auto& j = card_.judgement)
    draw_margin_line(p, QRectF(16, 62, width() - 32, 16), MarginSize::cell,
                     {j->verdict, j->margin, j->expanded, j->bound, std::nullopt},
                     card_.margin_span, t);
  p.setFont(type_font(Type::label));
  p.setPen(t.slate);
  draw_elided(p, QRectF(16, 86, width() - 32, 16), Qt::AlignVCenter, qt_text(card_.caption));
}

}  // namespace heron
