#pragma once

#include <QWidget>

#include "app/session/session.h"
#include "app/table/figure_table.h"
#include "app/widget/push_button.h"
#include "app/widget/segmented.h"

class QVBoxLayout;

namespace heron {

class ShackModel;

/// Every device against every characteristic, and what is due.
class ShackView : public QWidget {
  Q_OBJECT
 public:
  explicit ShackView(Session& session, QWidget* parent = nullptr);
  void refresh();
  FigureTable* matrix() { return matrix_; }
  class ShackList* recent() { return recent_; }

 signals:
  void evaluation_asked(long long evaluation, long long test);
  void new_evaluation_asked(long long device);
  void device_asked();
  void bench_asked();
  void device_edit_asked(long long device);
  void device_removal_asked(long long device);
  void device_copy_asked(long long device);
  void work_asked(long long device);

 protected:
  void resizeEvent(QResizeEvent* event) override;

 private:
  void open_row(int row, int column);
  void show_row_menu(const QPoint& at);
  /// Somebody stands at the name of a device of which nothing is in sight: scrolls to its first.
  void reveal(int row);
  void lay_out_columns();
  QWidget* make_first_steps();
  Session& session_;
  QLabel* summary_;
  PushButton* start_;
  PushButton* add_device_;
  Segmented* filter_;
  FigureTable* matrix_;
  QWidget* matrix_card_ = nullptr;
  QWidget* first_steps_ = nullptr;  ///< in its place while there is no device
  ShackModel* model_;
  class ShackList* due_;
  class ShackList* recent_;
};

}  // namespace heron
