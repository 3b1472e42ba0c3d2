#pragma once

#include "app/paint/margin_line.h"
#include "app/table/typed_grid.h"
#include "store/story.h"

namespace heron {

/// The specification of a device, a line each, with the last figure of what it is about. The first
/// four columns are typed into; the last row is empty: naming a characteristic there begins a line.
class LinesModel : public GridModel {
  Q_OBJECT
 public:
  enum Column {
    kCharacteristic,
    kLimit,
    kCondition,
    kSource,
    kFigure,
    kMargin,
    kVerdict,
    kColumns
  };
  enum class Rows { all, failing, due };
  using GridModel::GridModel;
  /// `figures`: what is shown beside each line; `before`: what it is compared with.
  void set_device(const Device& device, const std::vector<KnownFigure>& figures,
                  const std::vector<KnownFigure>& before, Rows rows, bool can_edit);
  struct Line {
    SpecLine line;
    std::size_t index = 0;  ///< among all of the device
    std::optional<KnownFigure> known;
    std::optional<Judgement> judgement;  ///< by this line
    std::optional<double> before;        ///< margin
    bool is_out_of_date = false;
    Verdict verdict() const;
  };
  const std::vector<Line>& lines() const { return lines_; }
  const std::vector<Line>& all_lines() const { return all_; }
  int filled_rows() const override {
    return static_cast<int>(lines_.size()) + (draft_.empty() ? 0 : 1);
  }
  void put_block(const QString& what, int row, int column,
                 const std::vector<QStringList>& block) override;
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : filled_rows() + (can_edit_ && draft_.empty() ? 1 : 0);
  }
  int columnCount(const QModelIndex& = {}) const override { return kColumns; }
  QVariant data(const QModelIndex& index, int role) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;

 signals:
  /// To be written: all lines.
  void changed(const QString& what, const std::vector<heron::SpecLine>& lines);
  /// A line was begun; its limit is typed next.
  void begun(int row);

 private:
  void put(int row, int column, const QString& text, std::vector<SpecLine>& lines);
  bool is_draft(int row) const { return !draft_.empty() && row == static_cast<int>(lines_.size()); }
  Device device_;
  std::vector<Line> all_;
  std::vector<Line> lines_;
  std::string draft_;  ///< the characteristic of a line whose limit is not typed yet
  bool can_edit_ = false;
};

/// Paints it, and completes names of characteristics and sources while they are typed.
class LinesDelegate : public GridDelegate {
 public:
  using GridDelegate::GridDelegate;
  QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                        const QModelIndex& index) const override;

 protected:
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
