#pragma once

#include <QMenu>

#include "app/widget/painted_button.h"

namespace heron {

/// Reads as a sentence: "Limit Marsh club, −30 dB", and opens a menu.
class Chip : public PaintedButton {
  Q_OBJECT
 public:
  explicit Chip(const QString& label, QWidget* parent = nullptr);
  void set_value(const QString& value);
  void set_label(const QString& label) { label_ = label; }
  /// Where there is little room the value stands alone.
  void show_label(bool shown);
  QString value() const { return value_; }
  QMenu* menu() { return menu_; }
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return {80, 26}; }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void open_menu();
  QString label_;
  QString value_;
  bool shows_label_ = true;
  QMenu* menu_;
};

}  // namespace heron
