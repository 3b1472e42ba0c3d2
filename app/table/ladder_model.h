#pragma once

#include <QAbstractTableModel>

#include "app/paint/margin_line.h"
#include "store/two_tone.h"

namespace heron {

/// The ladder of a two-tone test as rows: what the delegate paints and the clipboard takes.
class LadderModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { kStep, kOutputPep, kIm3, kIm5, kIm7, kIm9, kWorst, kMargin, kVerdict, kColumns };
  static constexpr int kOrders = kIm9 - kIm3 + 1;
  struct Row {
    QString step;
    QString output;
    QString im[kOrders];
    int im_side[kOrders] = {};  ///< 0 none, 1 lower, 2 upper: which side is shown
    QString worst;
    QString worst_u;
    int deciding = -1;  ///< index into im
    MarginMark mark;
    bool is_sweet_spot = false;
    bool is_taken = false;
    bool is_damaged = false;  ///< its record cannot be read
    bool has_limit = false;
  };

  using QAbstractTableModel::QAbstractTableModel;
  void set_test(const TwoToneTest& test, const QString& convention);
  const Row& row(int index) const { return rows_[static_cast<std::size_t>(index)]; }
  double margin_span() const { return span_; }

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<Row> rows_;
  double span_ = 20.0;
};

}  // namespace heron
