#pragma once

#include <QAbstractButton>

namespace heron {

/// A button that paints itself: knows hover, and shows focus only when it came by keyboard.
class PaintedButton : public QAbstractButton {
 public:
  using QAbstractButton::QAbstractButton;

 protected:
  bool shows_focus() const { return shows_focus_; }
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;
  void enterEvent(QEnterEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;  ///< Return presses too

 private:
  bool shows_focus_ = false;
};

bool is_keyboard_focus(Qt::FocusReason reason);

/// For views: whether the focus they have came by keyboard. Watch them once.
void watch_keyboard_focus(QWidget* view);
bool has_keyboard_focus(const QWidget* view);

}  // namespace heron
