#include "app/widget/caution_card.h"

#include <QPainter>

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

int CautionCard::heading_height() const {
  const QRect room(0, 0, std::max(80, width() - 56), 1000);
  const QFontMetrics metrics(type_font(Type::current));
  return std::max(20, metrics.boundingRect(room, Qt::TextWordWrap, heading_).height());
}

void CautionCard::fit() {
  const QFontMetrics metrics(type_font(Type::control));
  const int words =
      metrics.boundingRect(QRect(0, 0, std::max(100, width() - 32), 1000), Qt::TextWordWrap, text_)
          .height();
  setFixedHeight(20 + heading_height() + words + 12);
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
  const int below = 10 + heading_height();
  p.drawText(QRectF(40, 10, width() - 56, below - 10), Qt::TextWordWrap | Qt::AlignVCenter,
             heading_);
  p.setFont(type_font(Type::control));
  p.drawText(QRectF(16, below + 6, width() - 32, height() - below - 10), Qt::TextWordWrap, text_);
}

}  // namespace heron
