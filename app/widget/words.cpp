#include "app/widget/words.h"

#include <QPainter>

namespace heron {

Words::Words(const QString& text, Type type, Tone tone, QWidget* parent)
    : QLabel(text, parent), tone_(tone) {
  setFont(type_font(type));
  setTextFormat(Qt::PlainText);
  follow_theme();
}

void Words::elide() {
  elides_ = true;
  setProperty("elides", true);
  setMinimumWidth(40);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
}

void Words::paintEvent(QPaintEvent* event) {
  follow_theme();
  const bool is_whole = fontMetrics().horizontalAdvance(text()) <= width() + 1;
  if (!elides_ || is_whole) {
    QLabel::paintEvent(event);
    return;
  }
  QPainter p(this);
  p.setPen(palette().color(QPalette::WindowText));
  p.drawText(rect(), Qt::AlignLeft | Qt::AlignVCenter,
             fontMetrics().elidedText(text(), Qt::ElideRight, width()));
}

void Words::resizeEvent(QResizeEvent* event) {
  QLabel::resizeEvent(event);
  if (!elides_) return;
  const bool is_whole = fontMetrics().horizontalAdvance(text()) <= width() + 1;
  setToolTip(is_whole ? QString() : text());
}

void Words::follow_theme() {
  const Theme& t = theme_of(this);
  const QColor& colour = tone_ == Tone::ink ? t.ink : tone_ == Tone::slate ? t.slate : t.mute;
  if (palette().color(QPalette::WindowText) == colour) return;
  QPalette p = palette();
  p.setColor(QPalette::WindowText, colour);
  setPalette(p);
}

}  // namespace heron
