#pragma once

#include <QStyledItemDelegate>
#include <optional>

#include "app/theme/theme.h"
#include "core/judge/verdict.h"

class QTableView;

namespace heron {

/// A figure at the right of its cell.
void draw_right_figure(QPainter& p, const QRectF& cell, const QString& text, bool strong,
                       const QColor& colour);

/// A judgement on the scale that stands in the head; nothing where none was made.
void draw_margin_cell(QPainter& p, const QRectF& cell, const std::optional<Judgement>& judgement,
                      const std::optional<double>& before, double span, const Theme& theme);
/// Its mark and word; a word without a mark of its own where nothing was judged.
void draw_verdict_cell(QPainter& p, const QRectF& cell, const std::optional<Judgement>& judgement,
                       const QString& word, const Theme& theme, bool is_hollow = false);

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

}  // namespace heron
