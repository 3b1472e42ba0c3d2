#pragma once

#include <QStringList>
#include <QWidget>

namespace heron {

/// Choice of two to four values; arrows move, one stop in the tab order.
class Segmented : public QWidget {
  Q_OBJECT
 public:
  Segmented(const QString& name, const QStringList& choices, QWidget* parent = nullptr);
  int current() const { return current_; }
  QString current_text() const { return choices_[current_]; }
  void set_current(int index);  ///< without a signal
  /// Other choices, if they differ; then the first is chosen, without a signal.
  void set_choices(const QStringList& choices);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return sizeHint(); }

 signals:
  void chosen(int index);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;

 private:
  void choose(int index);
  QRectF segment(int index) const;
  QString name_;
  QStringList choices_;
  int current_ = 0;
  bool shows_focus_ = false;
};

}  // namespace heron
