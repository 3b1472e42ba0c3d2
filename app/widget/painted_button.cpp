#include "app/widget/painted_button.h"

#include <QFocusEvent>

namespace heron {

bool is_keyboard_focus(Qt::FocusReason reason) {
  return reason == Qt::TabFocusReason || reason == Qt::BacktabFocusReason ||
         reason == Qt::ShortcutFocusReason;
}

namespace {

constexpr const char* kProperty = "keyboardFocus";

class FocusWatch : public QObject {
 public:
  using QObject::QObject;
  bool eventFilter(QObject* watched, QEvent* event) override {
    if (event->type() == QEvent::FocusIn) {
      watched->setProperty(kProperty,
                           is_keyboard_focus(static_cast<QFocusEvent*>(event)->reason()));
    }
    // Whoever moves with the arrows needs to see where.
    if (event->type() == QEvent::KeyPress) watched->setProperty(kProperty, true);
    return false;
  }
};

}  // namespace

void watch_keyboard_focus(QWidget* view) {
  view->installEventFilter(new FocusWatch(view));
}
bool has_keyboard_focus(const QWidget* view) {
  return view->hasFocus() && view->property(kProperty).toBool();
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
