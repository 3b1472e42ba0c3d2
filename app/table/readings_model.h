#pragma once

#include <vector>

#include "app/table/typed_grid.h"
#include "store/two_tone.h"

namespace heron {

/// The ladder as a grid to type into: step, output and products as read off a screen, and what is
/// doubted. The last row is empty: typing there adds a step. Nothing is changed by a doubt.
class ReadingsModel : public GridModel {
  Q_OBJECT
 public:
  enum Column { kStep, kOutputPep, kIm3, kIm5, kIm7, kIm9, kDoubt, kColumns };
  using GridModel::GridModel;
  void set_test(const TwoToneTest& test, const QString& convention, bool can_edit);
  /// What a pasted or typed block would make of the steps from a cell on; InputError naming the
  /// cell.
  std::vector<Step> with_block(int row, int column, const std::vector<QStringList>& block) const;
  const std::vector<Step>& steps() const { return steps_; }
  int filled_rows() const override { return static_cast<int>(steps_.size()); }
  void put_block(const QString& what, int row, int column,
                 const std::vector<QStringList>& block) override {
    emit changed(what, with_block(row, column, block));
  }
  bool has_doubt(int row, int column) const;
  QString understood(int row) const;
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(steps_.size()) + (can_edit_ ? 1 : 0);
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;

 signals:
  /// To be written: steps with id 0 are new.
  void changed(const QString& what, const std::vector<heron::Step>& steps);

 private:
  void put(Step& step, int column, const QString& text) const;
  std::vector<Step> steps_;
  std::vector<ReadingDoubt> doubts_;
  std::string convention_ = kRePep;
  bool can_edit_ = false;
};

class ReadingsDelegate : public GridDelegate {
 public:
  using GridDelegate::GridDelegate;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
