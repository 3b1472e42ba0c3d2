#pragma once

#include <QAbstractTableModel>
#include <vector>

#include "app/hookup/hookup_scene.h"
#include "app/paint/margin_line.h"
#include "app/table/row_delegate.h"

namespace heron {

/// The parts of a hook-up as rows: loss, match, what limits them, and how far from it they are.
class PartModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { kName, kLoss, kVswr, kLimit, kMarginDb, kMargin, kCalibrated, kColumns };
  struct Row {
    QString name;
    QString loss;
    QString loss_u;
    QString vswr;
    QString limit;
    QString margin;
    MarginMark mark;
    QString calibrated;
    bool is_overdue = false;
    bool is_limit_strong = false;
  };
  using QAbstractTableModel::QAbstractTableModel;
  void set_scene(const HookupScene& scene, const std::string& today);
  const Row& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<Row> rows_;
  QString loss_head_;
};

class PartDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
