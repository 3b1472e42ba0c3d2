#pragma once

#include <QStyledItemDelegate>

#include "app/theme/theme.h"

class QTableView;

namespace heron {

/// A figure at the right of its cell.
void draw_right_figure(QPainter& p, const QRectF& cell, const QString& text, bool strong,
                       const QColor& colour);

/// Row background, rule, hover and the water bar; derived delegates paint the cells.
class RowDelegate : public QStyledItemDelegate {
 public:
  explicit RowDelegate(QTableView* view);
  void paint(QPainter* painter, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override;

 protected:
  /// Default: text right-aligned in the figure face, first column left.
  virtual void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                          const Theme& theme) const;
  QTableView* view_;
};

/// The ladder of a two-tone test.
class LadderDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

/// The products of one recording.
class ProductDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
