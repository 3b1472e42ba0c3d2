#pragma once

#include <QWidget>

#include "app/hookup/hookup_scene.h"

namespace heron {

/// The chain as a row of nodes: pick, replace, add between, drag to another place. One stop of the
/// keyboard: arrows choose, Ctrl arrows move, Insert adds behind, Delete removes, Return replaces.
class ChainBand : public QWidget {
  Q_OBJECT
 public:
  explicit ChainBand(QWidget* parent = nullptr);
  void set_scene(const HookupScene* scene);

 signals:
  void chosen(int column);
  /// A part moves so that it stands in column `to`.
  void move_asked(int from, int to);
  void add_asked(int after, QPoint where);
  void replace_asked(int column, QPoint where);
  void remove_asked(int column);
  void down_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void leaveEvent(QEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void focusInEvent(QFocusEvent* event) override;
  void focusOutEvent(QFocusEvent* event) override;

 private:
  HookupColumns columns() const;
  QRectF node_box(int column) const;
  bool is_movable(int column) const;
  /// The gap behind a column that a point is on; -1 if none.
  int gap_at(QPointF point) const;
  QPoint below(int column) const;
  void paint_node(QPainter& p, int column, const QRectF& box) const;
  const HookupScene* scene_ = nullptr;
  int pressed_ = -1;
  int gap_ = -1;  ///< hovered, or where a dragged part would land
  int hovered_ = -1;
  QPointF pressed_at_;
  QPointF dragged_to_;
  bool is_dragged_ = false;
  bool shows_focus_ = false;
};

}  // namespace heron
