#pragma once

#include "app/table/figure_table.h"
#include "app/table/readings_model.h"

namespace heron {

/// The grid that readings are typed into: typing edits, Enter moves on, Ctrl V pastes from a
/// spreadsheet, Ctrl D fills down, Delete empties.
class ReadingsGrid : public FigureTable {
  Q_OBJECT
 public:
  explicit ReadingsGrid(QWidget* parent = nullptr);
  ReadingsModel* readings() { return model_; }

 signals:
  void refused(const QString& what, const QString& what_to_do);

 protected:
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void paste();
  void fill_down();
  void put(const QString& what, int row, int column, const std::vector<QStringList>& block);
  ReadingsModel* model_;
};

}  // namespace heron
