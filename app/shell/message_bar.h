#pragma once

#include <QLabel>
#include <QTimer>
#include <QWidget>

#include "app/widget/push_button.h"

namespace heron {

/// What went wrong and what to do, or what was done; beside the work, never a dialog.
class MessageBar : public QWidget {
  Q_OBJECT
 public:
  explicit MessageBar(QWidget* parent = nullptr);
  void complain(const QString& what, const QString& what_to_do);
  void tell(const QString& what);
  /// Long work with a way to stop it; stays until `work_done`.
  void show_work(const QString& what);
  void set_progress(double fraction);
  void work_done();
  bool is_working() const { return is_working_; }
  QString text() const { return isHidden() ? QString() : words_->text(); }

 signals:
  void stop_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void set(const QString& what, bool is_error);
  void show_progress();
  QLabel* words_;
  PushButton* close_;
  QString work_;
  double fraction_ = 0.0;
  bool is_working_ = false;
  QTimer timer_;
  bool is_error_ = false;
};

}  // namespace heron
