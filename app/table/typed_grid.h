#pragma once

#include <QAbstractTableModel>

#include "app/table/figure_table.h"
#include "app/table/row_delegate.h"

namespace heron {

/// What a grid is typed into: rows that are there, and an empty one below them that adds a row.
class GridModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  using QAbstractTableModel::QAbstractTableModel;
  /// Without the empty one.
  virtual int filled_rows() const = 0;
  /// Whether something about a cell looks odd.
  virtual bool has_doubt(const QModelIndex&) const { return false; }
  /// Takes over a pasted or typed block from a cell on; InputError naming the cell, and then
  /// nothing is changed.
  virtual void put_block(const QString& what, int row, int column,
                         const std::vector<QStringList>& block) = 0;

 signals:
  void refused(const QString& what, const QString& what_to_do);
};

/// The grid that readings are typed into: typing edits, Enter moves on, Ctrl V pastes from a
/// spreadsheet, Ctrl D fills down, Delete empties; the same from its menu.
class TypedGrid : public FigureTable {
  Q_OBJECT
 public:
  TypedGrid(const QString& name, GridModel* model, QWidget* parent = nullptr);
  void paste();
  void fill_down();
  void empty_chosen();

 signals:
  void refused(const QString& what, const QString& what_to_do);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void put(const QString& what, int row, int column, const std::vector<QStringList>& block);
  GridModel* grid_;
};

/// Its cells: the one in use is framed, and is typed into with a plain line.
class GridDelegate : public RowDelegate {
 public:
  using RowDelegate::RowDelegate;
  QWidget* createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                        const QModelIndex& index) const override;
  void setEditorData(QWidget* editor, const QModelIndex& index) const override;
  void updateEditorGeometry(QWidget* editor, const QStyleOptionViewItem& option,
                            const QModelIndex& index) const override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 protected:
  /// As any table paints it.
  void paint_plain(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                   const Theme& theme) const {
    RowDelegate::paint_cell(p, cell, index, chosen, theme);
  }
  void draw_cell_frame(QPainter& p, const QRectF& cell, const QModelIndex& index,
                       const Theme& theme) const;
  void paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index, bool chosen,
                  const Theme& theme) const override;
};

}  // namespace heron
