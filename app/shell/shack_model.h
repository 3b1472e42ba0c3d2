#pragma once

#include <QAbstractTableModel>
#include <QStyledItemDelegate>

#include "core/method/method_table.h"
#include "store/device.h"
#include "store/evaluation.h"

class QTableView;

namespace heron {

/// One device's latest figure of one characteristic.
struct ShackCell {
  bool is_wanted = false;  ///< it has a specification line or a test
  std::optional<Headline> headline;
  std::optional<Headline> before;  ///< from an earlier evaluation
  std::optional<Limit> limit;
  Id evaluation = 0;
  Id test = 0;
};

struct ShackRow {
  Device device;
  std::vector<ShackCell> cells;  ///< one a shown characteristic
  Id latest_evaluation = 0;
};

/// Device rows and the characteristics that anything in this shack asks for.
class ShackModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  using QAbstractTableModel::QAbstractTableModel;
  enum class Filter { all, due, failing };
  void load(const Shack& shack, Filter filter);
  const ShackRow& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  const std::vector<ShackRow>& all_rows() const { return all_; }
  const Characteristic& characteristic(int column) const {
    return *shown_[static_cast<std::size_t>(column - 1)];
  }
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  int columnCount(const QModelIndex& = {}) const override {
    return static_cast<int>(shown_.size()) + 2;
  }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  int due_count() const;  ///< out of date
  int repeats() const;    ///< provisional
  int failing_count() const;

 private:
  std::vector<ShackRow> all_;
  std::vector<ShackRow> rows_;
  std::vector<const Characteristic*> shown_;
};

/// How many figures of a row are out of date.
int out_of_date_count(const ShackRow& row);
/// Provisional, and not out of date besides.
bool is_to_repeat(const ShackCell& cell);
int repeat_count(const ShackRow& row);
Verdict cell_verdict(const ShackCell& cell);
/// "−30.4 dB"
QString cell_figure(const Headline& headline);

/// Paints the matrix' cells.
class ShackDelegate : public QStyledItemDelegate {
 public:
  ShackDelegate(QTableView* view, QObject* parent) : QStyledItemDelegate(parent), view_(view) {}
  void paint(QPainter* painter, const QStyleOptionViewItem& option,
             const QModelIndex& index) const override;

 private:
  void paint_cell(QPainter& p, const QRectF& box, const ShackCell& cell, double span) const;
  QTableView* view_;
};

}  // namespace heron
