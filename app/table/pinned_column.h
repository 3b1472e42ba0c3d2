#pragma once

#include <QTableView>

namespace heron {

class FigureTable;

/// The first column of a table that scrolls sideways, laid over it where it would go out of sight.
/// It shows and chooses the same rows; keys go to the table itself.
class PinnedColumn : public QTableView {
 public:
  explicit PinnedColumn(FigureTable& table);
  /// After the table was laid out anew, or its rows changed.
  void follow();

 private:
  FigureTable& table_;
};

}  // namespace heron
