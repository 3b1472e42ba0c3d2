#pragma once

#include <QHeaderView>
#include <optional>

#include "core/method/result.h"

namespace heron {

/// Column heads in label type; a column whose head is "Margin, dB" carries the gauge's ticks.
class TableHead : public QHeaderView {
 public:
  explicit TableHead(QWidget* parent);
  void set_gauge(int column, double span) {
    gauge_column_ = column;
    span_ = span;
    viewport()->update();
  }

  /// A column whose rows share a scale.
  void set_axis(int column, std::optional<TableAxis> axis) {
    axis_column_ = column;
    axis_ = axis;
  }

  /// Second lines, lanes and what is filled, of a table that has them.
  void set_columns(const std::vector<TableColumn>& columns);

  /// How far the last column's words stand from the edge.
  void set_right_inset(int inset) { right_inset_ = inset; }
  void set_left_column(int column) { left_column_ = column; }
  void set_first_right(bool right) { is_first_right_ = right; }
  void set_left(bool left) { is_left_ = left; }
  void set_last_left(bool left) { is_last_left_ = left; }

 protected:
  void paintSection(QPainter* painter, const QRect& rect, int index) const override;
  QSize sizeHint() const override { return {0, height()}; }

 private:
  void paint_two_lines(QPainter& p, const QRectF& rect, int index) const;
  std::vector<TableColumn> columns_;  ///< empty = heads of one line
  int gauge_column_ = -1;
  int axis_column_ = -1;
  std::optional<TableAxis> axis_;
  int left_column_ = -1;
  int right_inset_ = 10;
  bool is_left_ = false;
  bool is_first_right_ = false;
  bool is_last_left_ = true;
  double span_ = 20.0;
};

}  // namespace heron
