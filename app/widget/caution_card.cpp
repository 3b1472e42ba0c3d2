#include "app/widget/caution_card.h"

#include <QPainter>

#include "app/paint/figure_text.h"
#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {

CautionCard::CautionCard(QWidget* parent) : QWidget(parent) {}

void CautionCard::set_words(const QString& heading, const QString& text) {
  heading_ = heading;
  text_ = text;
  setAccessibleName(heading + ". " + text);
  fit();
  update();
}

void CautionCard::fit() {
  const QFontMetrics metrics(type_font(Type::control));
  const int words =
      metrics.boundingRect(QRect(0, 0, std::max(100, width() - 32), 1000), Qt::TextWordWrap, text_)
          .height();
  setFixedHeight(40 + words + 12);
}

void CautionCard::resizeEvent(QResizeEvent*) {
  fit();
}

void CautionCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Theme& t = theme_of(this);
  p.setPen(Qt::NoPen);
  p.setBrush(t.margTint);
  p.drawRoundedRect(rect(), 6, 6);
  p.setPen(QPen(t.marg, 1.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.setBrush(Qt::NoBrush);
  p.drawPolygon(QPolygonF({{23, 13}, {30, 26}, {16, 26}}));
  p.setFont(type_font(Type::current));
  p.setPen(t.ink);
  draw_elided(p, QRectF(40, 10, width() - 56, 20), Qt::AlignVCenter, heading_);
  p.setFont(type_font(Type::control));
  p.drawText(QRectF(16, 36, width() - 32, height() - 40), Qt::TextWordWrap, text_);
}

}  // namespace heron
