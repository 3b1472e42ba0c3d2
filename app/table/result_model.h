#pragma once

#include <QAbstractTableModel>

#include "app/table/row_delegate.h"
#include "core/method/result.h"

namespace heron {

/// Any table of a result.
class ResultModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  using QAbstractTableModel::QAbstractTableModel;
  void set_table(const ResultTable& table);
  const ResultTable& table() const { return table_; }
  const TableCell& cell(const QModelIndex& index) const;
  CellKind kind(int column) const { return table_.columns[static_cast<std::size_t>(column)].kind; }
  /// Whether anything was read at a row: otherwise its name is pale.
  bool is_taken(int row) const;
  /// Px that the widest ± of a column takes; 0 without one.
  double uncertainty_width(int column) const;
  /// The column of the margin line; -1 without one.
  int margin_column() const;
  /// Widths for FigureTable in a window of this width.
  std::vector<int> widths(int window_px) const;

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(table_.rows.size());
  }
  int columnCount(const QModelIndex& = {}) const override {
    return static_cast<int>(table_.columns.size());
  }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  ResultTable table_;
  std::vector<double> uncertainty_widths_;
};

/// Paints it: names, figures, the margin line, the verdict; the cell that decides its row is ink.
class ResultDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
