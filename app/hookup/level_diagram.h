#pragma once

#include <QWidget>

#include "app/hookup/hookup_scene.h"
#include "app/hookup/label_room.h"

namespace heron {

/// The level along the chain as a falling line, with each part's ratings and each input's window as
/// bands behind it: one sees the headroom. Arrows choose a column; its node is read out.
class LevelDiagram : public QWidget {
  Q_OBJECT
 public:
  explicit LevelDiagram(QWidget* parent = nullptr);
  void set_scene(const HookupScene* scene);
  /// "Power pad, 40 dB: +44.8 dBm, 1.8 dB over 10 W average".
  static QString read_out(const HookupScene& scene, int column);

  /// Where the labels of the last painting stand.
  const std::vector<QRectF>& labels() const { return room_.taken(); }

 signals:
  void chosen(int column);
  void unit_asked();
  void up_asked();
  void down_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;

 private:
  HookupColumns columns() const;
  QRectF plot() const;
  void fit_range();
  double y_of(double dbm) const;
  QRectF unit_box() const { return {width() - 110.0, 2, 100, 22}; }
  void paint_axes(QPainter& p) const;
  void paint_bands(QPainter& p, int column) const;
  void paint_band_words(QPainter& p, int column) const;
  void paint_levels(QPainter& p) const;
  void paint_ghost(QPainter& p) const;
  void paint_margin(QPainter& p, int column) const;
  const HookupScene* scene_ = nullptr;
  mutable LabelRoom room_;
  double low_ = -60;
  double high_ = 60;
  int hovered_ = -1;
  bool shows_focus_ = false;
};

}  // namespace heron
