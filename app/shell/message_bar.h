#pragma once

#include <QLabel>
#include <QTimer>
#include <QWidget>

namespace heron {

/// What went wrong and what to do, or what was done; beside the work, never a dialog.
class MessageBar : public QWidget {
  Q_OBJECT
 public:
  explicit MessageBar(QWidget* parent = nullptr);
  void complain(const QString& what, const QString& what_to_do);
  void tell(const QString& what);
  QString text() const { return isHidden() ? QString() : words_->text(); }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void set(const QString& what, bool is_error);
  QLabel* words_;
  QTimer timer_;
  bool is_error_ = false;
};

}  // namespace heron
