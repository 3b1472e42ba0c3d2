#include "app/widget/painted_button.h"

#include <QFocusEvent>

namespace heron {

bool is_keyboard_focus(Qt::FocusReason reason) {
  return reason == Qt::TabFocusReason || reason == Qt::BacktabFocusReason ||
         reason == Qt::ShortcutFocusReason;
}

void PaintedButton::focusInEvent(QFocusEvent* event) {
  shows_focus_ = is_keyboard_focus(event->reason());
  QAbstractButton::focusInEvent(event);
  update();
}
void PaintedButton::focusOutEvent(QFocusEvent* event) {
  shows_focus_ = false;
  QAbstractButton::focusOutEvent(event);
  update();
}
void PaintedButton::enterEvent(QEnterEvent* event) {
  QAbstractButton::enterEvent(event);
  update();
}
void PaintedButton::leaveEvent(QEvent* event) {
  QAbstractButton::leaveEvent(event);
  update();
}
void PaintedButton::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    click();
    return;
  }
  QAbstractButton::keyPressEvent(event);
}

}  // namespace heron
