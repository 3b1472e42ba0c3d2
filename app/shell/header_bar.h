#pragma once

#include <QMenu>
#include <QWidget>

#include "app/widget/chip.h"
#include "app/widget/painted_button.h"

namespace heron {

/// Heron, crumbs, state of bench and RF, find box.
class HeaderBar : public QWidget {
  Q_OBJECT
 public:
  explicit HeaderBar(QWidget* parent = nullptr);
  void show_shack(const QString& place);
  void show_evaluation(const QString& device, const QString& evaluation);
  Chip* device_chip() { return device_; }
  QMenu* menu() { return menu_; }

 signals:
  void shack_asked();
  void find_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void lay_out();
  PaintedButton* home_;
  PaintedButton* shack_;
  PaintedButton* find_;
  Chip* device_;
  QMenu* menu_;
  QString place_;
  QString evaluation_;
  bool is_shack_ = true;
};

}  // namespace heron
