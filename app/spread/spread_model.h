#pragma once

#include <QAbstractTableModel>

#include "app/table/row_delegate.h"
#include "store/spread_test.h"

namespace heron {

/// The steps of a test with noise or speech: widths, power beside the channel, noise power ratio,
/// and what two tones gave at the same step.
class SpreadModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column {
    kStep,
    kOccupied,
    k26,
    kBelow,
    kAbove,
    kRatio,
    kTones,
    kMargin,
    kVerdict,
    kColumns
  };
  using QAbstractTableModel::QAbstractTableModel;
  void set_test(const SpreadTest& test, Hold hold);
  const std::optional<Judgement>& judgement(int row) const {
    return judgements_[static_cast<std::size_t>(row)];
  }
  double margin_span() const { return span_; }

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(cells_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<std::array<QString, kColumns>> cells_;
  std::vector<std::optional<Judgement>> judgements_;
  double span_ = 20.0;
};

class SpreadDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
