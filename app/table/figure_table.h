#pragma once

#include <QTableView>
#include <optional>

namespace heron {

/// The look of every table: no grid, 29 px rows, hair rules, water bar at the chosen row, figures
/// in mono. Copy takes the chosen rows as tab-separated text with heads.
class PinnedColumn;

class FigureTable : public QTableView {
  Q_OBJECT
 public:
  explicit FigureTable(const QString& name, QWidget* parent = nullptr);
  /// Widths of the columns; -1 takes the slack (several share it), 0 hides one (it is still
  /// copied).
  void set_columns(const std::vector<int>& widths);
  /// The column that takes the slack keeps so much; what then has no room is scrolled to, while the
  /// first column stays.
  void keep_slack(int px);
  /// Rows of the same height.
  void set_row_height(int px);
  /// Rows share the height that there is within bounds; the last one has its own.
  void share_height(int least_px, int most_px, int last_px);
  /// While there are no rows.
  void set_empty_words(const QString& words);
  void choose_row(int row);  ///< without a signal
  int chosen_row() const;
  QString as_text(bool only_chosen) const;
  void copy_chosen() const;
  void copy_all() const;
  /// Never under the first column, which stays.
  void scrollTo(const QModelIndex& index, ScrollHint hint = EnsureVisible) override;
  /// Whether all of a column is in sight.
  bool is_in_sight(int column) const;
  /// As the first behind the one that stays.
  void scroll_to_column(int column);

 signals:
  void row_chosen(int row);
  void cell_chosen(int row, int column);
  /// Delete, where nothing can be typed.
  void removal_asked(int row);

 protected:
  void resizeEvent(QResizeEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;

 private:
  void lay_out();
  void lay_out_rows();
  int least_slack_ = 60;
  QString empty_words_;
  PinnedColumn* pinned_ = nullptr;  ///< where it scrolls sideways
  struct Shared {
    int least_px;
    int most_px;
    int last_px;
  };
  std::optional<Shared> shared_;  ///< heights of rows
  std::vector<int> widths_;
  bool is_quiet_ = false;
  int column_ = 0;  ///< where somebody stands in a row
};

}  // namespace heron
