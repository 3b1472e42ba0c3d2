#pragma once

#include <QTableView>

namespace heron {

/// The look of every table: no grid, 29 px rows, hair rules, water bar at the chosen row, figures
/// in mono. Copy takes the chosen rows as tab-separated text with heads.
class FigureTable : public QTableView {
  Q_OBJECT
 public:
  explicit FigureTable(const QString& name, QWidget* parent = nullptr);
  /// Widths of the columns; -1 takes the slack, 0 hides one (it is still copied).
  void set_columns(const std::vector<int>& widths);
  /// The column that takes the slack keeps so much; what then has no room is scrolled to.
  void keep_slack(int px);
  void choose_row(int row);  ///< without a signal
  int chosen_row() const;
  QString as_text(bool only_chosen) const;
  void copy_chosen() const;
  void copy_all() const;

 signals:
  void row_chosen(int row);
  void cell_chosen(int row, int column);

 protected:
  void resizeEvent(QResizeEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void currentChanged(const QModelIndex& current, const QModelIndex& previous) override;

 private:
  void lay_out();
  int least_slack_ = 60;
  std::vector<int> widths_;
  bool is_quiet_ = false;
  int column_ = 0;  ///< where somebody stands in a row
};

}  // namespace heron
