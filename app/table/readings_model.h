#pragma once

#include <QAbstractTableModel>
#include <vector>

#include "app/table/row_delegate.h"
#include "store/two_tone_test.h"

namespace heron {

/// The ladder as a grid to type into: step, output and products as read off a screen, and what is
/// doubted. The last row is empty: typing there adds a step. Nothing is changed by a doubt.
class ReadingsModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { kStep, kOutput, kIm3, kIm5, kIm7, kIm9, kDoubt, kColumns };
  using QAbstractTableModel::QAbstractTableModel;
  void set_test(const TwoToneTest& test, const QString& convention, bool can_edit);
  /// What a pasted or typed block would make of the steps from a cell on; InputError naming the
  /// cell.
  std::vector<Step> with_block(int row, int column, const std::vector<QStringList>& block) const;
  const std::vector<Step>& steps() const { return steps_; }
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
  void refused(const QString& what, const QString& what_to_do);

 private:
  void put(Step& step, int column, const QString& text) const;
  std::vector<Step> steps_;
  std::vector<ReadingDoubt> doubts_;
  std::string convention_ = kRePep;
  bool can_edit_ = false;
};

class ReadingsDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;
  QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                        const QModelIndex& index) const override;
  void setEditorData(QWidget* editor, const QModelIndex& index) const override;
  void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                            const QModelIndex& index) const override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
