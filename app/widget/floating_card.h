#pragma once

#include <QPointer>
#include <QWidget>

namespace heron {

/// A raised card over the window that can be moved by its heading; Esc closes it and gives the
/// focus back. Content goes below kHead.
class FloatingCard : public QWidget {
  Q_OBJECT
 public:
  static constexpr int kHead = 46;
  FloatingCard(const QString& heading, QWidget* window);
  /// Shows it with its top left corner there, kept inside the window, and gives it the focus.
  void open_at(QPoint corner);
  /// A notch at the top edge, tying it to what asked for it; x in the card, -1 = none.
  void set_notch(int x) { notch_x_ = x; }
  void set_key_cap(const QString& keys) { keys_ = keys; }

 signals:
  void closed();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void hideEvent(QHideEvent* event) override;

 private:
  QRect close_box() const { return {width() - 38, 10, 28, 28}; }
  QString heading_;
  QString keys_;
  int notch_x_ = -1;
  QPoint home_;
  QPoint grabbed_;
  bool is_dragged_ = false;
  QPointer<QWidget> focus_before_;
};

}  // namespace heron
