#pragma once

#include "app/session/session.h"
#include "app/session/step_edits.h"
#include "app/table/typed_grid.h"

namespace heron {

/// The steps of a test as a grid to type into: its name, then the method's own fields. The last
/// row is empty: typing there adds a step.
class EvidenceModel : public GridModel {
  Q_OBJECT
 public:
  using GridModel::GridModel;
  void set_test(const GeneralTest& test, bool can_edit);
  int filled_rows() const override { return static_cast<int>(steps_.size()); }
  void put_block(const QString& what, int row, int column,
                 const std::vector<QStringList>& block) override;
  std::vector<int> widths() const;
  /// Cells that hold a reading, as places to mark.
  std::vector<FieldPlace> places(const QModelIndexList& cells) const;
  bool is_provisional(const QModelIndex& index) const {
    const Reading* r = reading(index);
    return r != nullptr && r->is_provisional;
  }
  bool has_doubt(const QModelIndex& index) const override { return !doubt(index).isEmpty(); }

  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : filled_rows() + (can_edit_ ? 1 : 0);
  }
  int columnCount(const QModelIndex& = {}) const override {
    return method_ != nullptr ? static_cast<int>(method_->fields.size()) + 1 : 0;
  }
  QVariant data(const QModelIndex& index, int role) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;

 signals:
  /// To be written.
  void changed(const QString& what, const std::vector<heron::TypedCells>& steps);

 private:
  const TypedField& field(int column) const {
    return method_->fields[static_cast<std::size_t>(column - 1)];
  }
  /// The one that counts in a cell; nullptr if none does.
  const Reading* reading(const QModelIndex& index) const;
  /// What is odd about a cell; empty if nothing.
  QString doubt(const QModelIndex& index) const;
  /// What a bare number in a column is in, where the settings choose that; empty = as the field
  /// says.
  QString bare_unit(const TypedField& f) const;
  /// What stands in it, with its convention where that is not the shown one.
  QString shown(const TypedField& f, const EvidenceStep& step) const;
  const Method* method_ = nullptr;
  std::string convention_;
  nlohmann::json settings_;
  std::vector<Doubt> doubts_;
  std::vector<Id> ids_;
  std::vector<EvidenceStep> steps_;
  bool can_edit_ = false;
};

}  // namespace heron
