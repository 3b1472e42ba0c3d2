#pragma once

#include <QAbstractTableModel>

#include "app/table/typed_grid.h"
#include "core/method/method.h"
#include "core/method/result.h"

namespace heron {

/// Any table of a result.
class ResultModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  using QAbstractTableModel::QAbstractTableModel;
  /// `can_type`: its typed cells may be changed, and a row be added where it has one.
  void set_table(const ResultTable& table, bool can_type = false);
  /// Which rows are there, of a table that judges its cells; what is left of each column stays.
  enum class Rows { all, not_passing, not_measured };
  void show_rows(Rows which);
  std::size_t row_count() const;  ///< without the foot
  std::size_t rows_in_all() const { return rows_in_all_; }
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

  /// Whether a row is the empty one below them.
  bool is_new(int row) const { return row >= static_cast<int>(table_.rows.size()); }

  int rowCount(const QModelIndex& parent = {}) const override {
    const int rows = static_cast<int>(table_.rows.size());
    return parent.isValid() ? 0 : rows + (can_type_ && !table_.new_row.empty() ? 1 : 0);
  }
  Qt::ItemFlags flags(const QModelIndex& index) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  int columnCount(const QModelIndex& = {}) const override {
    return static_cast<int>(table_.columns.size());
  }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 signals:
  /// Its table is another one once that is worked out.
  void cell_typed(const TypedCell& cell);

 private:
  void filter();
  ResultTable table_;
  std::vector<ResultTable::Row> all_rows_;
  std::size_t rows_in_all_ = 0;
  Rows shown_ = Rows::all;
  TableCell new_name_;
  bool can_type_ = false;
  std::vector<double> uncertainty_widths_;
};

/// Paints it: names, figures, the margin line, the verdict; the cell that decides its row is ink.
class ResultDelegate : public GridDelegate {
 public:
  using GridDelegate::GridDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
