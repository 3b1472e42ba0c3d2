#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <vector>

#include "app/widget/rail.h"
#include "core/judge/verdict.h"
#include "store/bench.h"

namespace heron {

/// The bench as a list: heads of groups, and one row a thing.
class BenchModel : public QAbstractListModel {
  Q_OBJECT
 public:
  struct Row {
    bool is_head = false;
    QString head;
    BenchEntry entry;
  };
  using QAbstractListModel::QAbstractListModel;
  void set_bench(const std::vector<BenchEntry>& entries, const std::string& today);
  const Row& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  int row_of(Id item) const;  ///< -1 if it is not there
  const std::string& today() const { return today_; }
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  QVariant data(const QModelIndex& index, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;

 private:
  std::vector<Row> rows_;
  std::string today_;
};

class BenchDelegate : public RailDelegate {
 public:
  BenchDelegate(const BenchModel* model, QListView* view) : RailDelegate(view, 40), model_(model) {}

 protected:
  QString head(const QModelIndex& index) const override { return model_->row(index.row()).head; }
  void paint_row(QPainter& p, const QRectF& box, const QModelIndex& index, bool is_current,
                 const Theme& theme) const override;

 private:
  const BenchModel* model_;
};

/// One fact that tells a thing from others: "20 W", "0.09 dB".
QString bench_fact(const BenchItem& item);
/// How its calibration stands, as a verdict shape.
Verdict calibration_verdict(const BenchItem& item, const std::string& today);

}  // namespace heron
