#pragma once

#include <QWidget>

namespace heron {

/// Lies over a widget whose content is older than it should be: pale, and in nobody's way.
class Veil : public QWidget {
 public:
  static void set(QWidget* over, bool is_veiled);
  static bool is_over(const QWidget* widget);

 protected:
  void paintEvent(QPaintEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  explicit Veil(QWidget* over);
};

}  // namespace heron
