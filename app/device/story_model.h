#pragma once

#include <QAbstractTableModel>

#include "app/table/row_delegate.h"
#include "store/story.h"

namespace heron {

/// What happened to a device, newest first: evaluations, work done with what it changed, figures
/// from elsewhere.
class StoryModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { kAge, kWhat, kEffect, kMargin, kColumns };
  using QAbstractTableModel::QAbstractTableModel;
  void set_rows(std::vector<StoryRow> rows);
  const StoryRow& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  const std::vector<StoryRow>& rows() const { return rows_; }
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;

 private:
  std::vector<StoryRow> rows_;
};

class StoryDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
