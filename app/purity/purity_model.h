#pragma once

#include <QAbstractTableModel>
#include <optional>

#include "app/table/row_delegate.h"
#include "core/method/purity.h"

namespace heron {

/// The lines of a purity test, the carrier first as their reference.
class PurityModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column {
    kFrequency,
    kWhat,
    kAsRead,
    kCorrection,
    kLevel,
    kAbsolute,
    kLimit,
    kMargin,
    kVerdict,
    kColumns
  };
  using QAbstractTableModel::QAbstractTableModel;
  void set_analysis(const std::optional<PurityAnalysis>& analysis);
  const PurityLine& line(int row) const { return lines_[static_cast<std::size_t>(row)]; }

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(lines_.size());
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

 private:
  std::vector<PurityLine> lines_;
  bool is_absolute_ = false;
  double carrier_as_read_ = 0.0;
};

class PurityDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

/// "2nd harmonic", "carrier", "non-harmonic", "made by the instrument"
QString line_name(const PurityLine& line);

}  // namespace heron
