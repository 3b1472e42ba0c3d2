#include "app/widget/words.h"

#include <QApplication>
#include <QEvent>

namespace heron {

Words::Words(const QString& text, Type type, Tone tone, QWidget* parent)
    : QLabel(text, parent), tone_(tone) {
  setFont(type_font(type));
  setTextFormat(Qt::PlainText);
  follow_theme();
}

void Words::changeEvent(QEvent* event) {
  QLabel::changeEvent(event);
  if (event->type() == QEvent::PaletteChange || event->type() == QEvent::ApplicationPaletteChange)
    follow_theme();
}

void Words::follow_theme() {
  if (is_following_) return;
  is_following_ = true;
  QPalette p = QApplication::palette();
  const Theme& t = p.color(QPalette::Window).lightness() < 128 ? dark_theme() : light_theme();
  p.setColor(QPalette::WindowText, tone_ == Tone::ink     ? t.ink
                                   : tone_ == Tone::slate ? t.slate
                                                          : t.mute);
  setPalette(p);
  is_following_ = false;
}

}  // namespace heron
