#pragma once

#include <QAbstractTableModel>
#include <vector>

#include "app/paint/margin_line.h"
#include "app/table/row_delegate.h"
#include "core/chain/bench_remarks.h"
#include "store/shack.h"

namespace heron {

/// Where a thing of the bench is used: hook-up, test, what it takes there, and its margin.
class UsedModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { kHookup, kTest, kLevel, kMarginDb, kMargin, kFigures, kColumns };
  struct Row {
    Id hookup = 0;
    Id evaluation = 0;
    Id test = 0;
    QString name;
    QString device;
    QString level;
    QString margin;
    QString limit;
    MarginMark mark;
    int figures = 0;
  };
  using QAbstractTableModel::QAbstractTableModel;
  void set_item(const Shack& shack, Id item);
  std::vector<BenchUse> uses() const;  ///< in the words of its remarks
  const Row& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<Row> rows_;
};

class UsedDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
