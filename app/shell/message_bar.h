#pragma once

#include <QLabel>
#include <QTimer>
#include <QWidget>
#include <functional>

#include "app/widget/push_button.h"

namespace heron {

/// What a message is about: it goes when that is no longer so.
enum class MessageTopic {
  general,
  page,  ///< of what is shown, such as a refused edit: goes with the next change or another page
  rf     ///< whether RF is on: goes when that changes
};

/// What went wrong and what to do, or what was done; beside the work, never a dialog. It lies over
/// the foot of its parent, so that nothing moves when it comes and goes.
class MessageBar : public QWidget {
  Q_OBJECT
 public:
  explicit MessageBar(QWidget* parent = nullptr);
  void complain(const QString& what, const QString& what_to_do,
                MessageTopic topic = MessageTopic::general);
  void tell(const QString& what, MessageTopic topic = MessageTopic::general);
  /// A complaint with something to do about it at once.
  void offer(const QString& what, const QString& button, std::function<void()> action,
             MessageTopic topic);
  /// What was said about this is no longer true.
  void retract(MessageTopic topic);
  /// Puts it at the foot of its parent again, after that was resized.
  void place();
  /// Long work with a way to stop it; stays until `work_done`.
  void show_work(const QString& what);
  void set_progress(double fraction);
  void work_done();
  bool is_working() const { return is_working_; }
  PushButton* close_button() { return close_; }
  QString text() const { return isHidden() ? QString() : words_->text(); }

 signals:
  void stop_asked();

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void set(const QString& what, bool is_error, MessageTopic topic);
  void show_progress();
  QLabel* words_;
  PushButton* offer_;
  PushButton* close_;
  std::function<void()> offered_;
  MessageTopic topic_ = MessageTopic::general;
  QString work_;
  double fraction_ = 0.0;
  bool is_working_ = false;
  QTimer timer_;
  bool is_error_ = false;
};

}  // namespace heron
