#pragma once

#include <QAbstractListModel>

#include "app/widget/rail.h"
#include "store/story.h"

namespace heron {

/// All devices by kind, each with the worst of its lines; retired ones last.
class DeviceRailModel : public QAbstractListModel {
  Q_OBJECT
 public:
  struct Row {
    bool is_head = false;
    QString head;
    Device device;
    Verdict worst = Verdict::not_taken;
    QString word;  ///< "1 fails", "pass", "nothing yet"
  };
  using QAbstractListModel::QAbstractListModel;
  void load(const Shack& shack);
  const Row& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  int row_of(Id device) const;  ///< -1 if it is not there
  int device_count() const { return count_; }
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  QVariant data(const QModelIndex& index, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;

 private:
  std::vector<Row> rows_;
  int count_ = 0;
};

class DeviceRailDelegate : public RailDelegate {
 public:
  DeviceRailDelegate(const DeviceRailModel* model, QListView* view)
      : RailDelegate(view, 46), model_(model) {}

 protected:
  QString head(const QModelIndex& index) const override { return model_->row(index.row()).head; }
  void paint_row(QPainter& p, const QRectF& box, const QModelIndex& index, bool is_current,
                 const Theme& theme) const override;

 private:
  const DeviceRailModel* model_;
};

}  // namespace heron
