#pragma once

#include <QMenu>
#include <QWidget>

#include "app/shell/key_clock.h"
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
  void show_bench(const QString& place);
  Chip* device_chip() { return device_; }
  QMenu* menu() { return menu_; }
  KeyClock* key_clock() { return key_clock_; }
  /// What this bench is; `count` instruments answer.
  void set_bench(bool is_simulated, int count);
  QString bench_words() const { return bench_->text(); }

 signals:
  void shack_asked();
  void bench_asked();
  void find_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void lay_out();
  PaintedButton* home_;
  PaintedButton* shack_;
  PaintedButton* find_;
  PaintedButton* bench_;
  KeyClock* key_clock_;
  Chip* device_;
  QMenu* menu_;
  QString place_;
  QString evaluation_;
  bool is_shack_ = true;
  bool is_bench_ = false;
  bool is_simulated_ = false;
  int answering_ = 0;
};

}  // namespace heron
