#pragma once

#include <QObject>

#include "app/session/import_queue.h"
#include "app/session/session.h"
#include "app/shell/message_bar.h"

namespace heron {

struct Characteristic;

/// Questions about devices, evaluations and tests, and what comes of the answers.
class ShackPrompts : public QObject {
  Q_OBJECT
 public:
  ShackPrompts(Session& session, ImportQueue& queue, MessageBar& messages, QWidget& window);
  void ask_to_remove_device(heron::Id device);
  /// Another one like it, with the same specification.
  void ask_to_duplicate_device(heron::Id device);
  /// What was done to it: a repair, an adjustment, a part.
  void ask_for_work(heron::Id device);
  /// What somebody else found of it.
  void ask_for_outside_figure(heron::Id device);
  void ask_for_evaluation(heron::Id device);
  void ask_to_rename_evaluation();
  void ask_for_goal();
  /// Whole, or in part with its reason and next step.
  void ask_to_end_evaluation();
  void ask_to_rename_test(Id test);
  void ask_to_duplicate_test(Id test);
  /// What kinds of test can be added, as a menu that ends at this point of the screen.
  void choose_test_kind(const QPoint& at);
  void ask_for_test(const Characteristic& kind);
  void ask_to_clean_up();

 signals:
  void evaluation_asked(long long evaluation, long long test);

 private:
  Session& session_;
  ImportQueue& queue_;
  MessageBar& messages_;
  QWidget& window_;
};

}  // namespace heron
