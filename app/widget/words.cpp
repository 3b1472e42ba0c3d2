#include "app/widget/words.h"

namespace heron {

Words::Words(const QString& text, Type type, Tone tone, QWidget* parent)
    : QLabel(text, parent), tone_(tone) {
  setFont(type_font(type));
  setTextFormat(Qt::PlainText);
  follow_theme();
}

void Words::paintEvent(QPaintEvent* event) {
  follow_theme();
  QLabel::paintEvent(event);
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
