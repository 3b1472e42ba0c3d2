#pragma once

#include <QHBoxLayout>
#include <QLabel>
#include <QListView>
#include <QStyledItemDelegate>

#include "app/theme/theme.h"

namespace heron {

/// The column at the left of a page: a heading with a count, a list, what can be done at its foot.
struct Rail {
  QWidget* widget = nullptr;
  QLabel* count = nullptr;
  QListView* list = nullptr;
  QHBoxLayout* foot = nullptr;
};
Rail make_rail(const QString& heading);
/// A page with such a column, a sheet, and a column of cards.
void lay_out_page(QWidget& page, QWidget* rail, QWidget* sheet, QWidget* right);

/// What lies under a row: a card with the bar if it is current, a tint under the pointer.
void draw_rail_ground(QPainter& p, const QRectF& box, const QListView& view,
                      const QModelIndex& index, bool is_current);

/// Paints its rows: words over a group, or a row on its ground.
class RailDelegate : public QStyledItemDelegate {
 public:
  RailDelegate(QListView* view, int row_height);
  QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
  void paint(QPainter* painter, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override;

 protected:
  /// Of a group; null of a row.
  virtual QString head(const QModelIndex& index) const = 0;
  virtual void paint_row(QPainter& p, const QRectF& box, const QModelIndex& index, bool is_current,
                         const Theme& theme) const = 0;

 private:
  QListView* view_;
  int row_height_;
};

}  // namespace heron
