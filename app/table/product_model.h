#pragma once

#include <QAbstractTableModel>

#include "core/method/two_tone/two_tone.h"

namespace heron {

/// Every product of one recording by order and side, in both conventions.
class ProductModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { kName, kFrequency, kOneTone, kPep, kUncertainty, kFloor, kColumns };
  using QAbstractTableModel::QAbstractTableModel;
  void set_analysis(const TwoToneAnalysis* analysis);
  /// Row of a product, -1 if it is not there.
  int row_of(int order, bool upper) const;
  const TwoToneProduct& product(int row) const { return products_[static_cast<std::size_t>(row)]; }
  bool is_worst(int row) const { return row == worst_row_; }

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(products_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<TwoToneProduct> products_;
  std::vector<double> u_db_;
  int worst_row_ = -1;
};

}  // namespace heron
