#pragma once

#include <QObject>
#include <QUndoStack>
#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "store/device.h"
#include "store/evaluation.h"
#include "store/evaluator.h"
#include "store/loaded.h"
#include "store/shack.h"

namespace heron {

/// Why something may not be changed, and what to do about it.
struct Refusal {
  QString what;
  QString what_to_do;
};

/// The open shack and what is being looked at. Every change goes through an undoable edit that is
/// on disk when it is done; views follow the signals.
class Session : public QObject {
  Q_OBJECT
 public:
  explicit Session(QObject* parent = nullptr);
  ~Session() override;
  /// Tests are worked out in a thread of their own. What is done so soon is shown at once, without
  /// the older state in between; 0 = never.
  static inline std::chrono::milliseconds patience{40};

  /// Throws InputError; the shack open before stays open then.
  void open(const QString& folder);
  void create(const QString& folder, const QString& place);
  Shack& shack() { return *shack_; }
  const Shack& shack() const { return *shack_; }
  bool is_open() const { return shack_ != nullptr; }
  QUndoStack& undo_stack() { return undo_; }

  /// And one of its tests; 0 = the first.
  void show_evaluation(Id evaluation, Id test = 0);
  void show_test(Id test);
  Id evaluation_id() const { return evaluation_; }
  Id test_id() const { return test_; }
  const std::vector<Test>& course() const { return course_; }
  /// The shown test with its evidence; nullptr if there is none, it is of another kind, or not yet
  /// worked out.
  const LoadedTest& loaded() const { return shown_; }
  const PlannedTest* planned() const { return general(); }
  const GeneralTest* general() const { return shown_ ? &*shown_ : nullptr; }

  /// Whether what is shown is older than what is on disk, and the new is being worked out.
  bool is_waiting() const { return is_waiting_; }
  /// The test that is chosen, while nothing of it can be shown yet.
  const Test* waited_for() const;
  /// Until it is there: for what may not go by anything older, such as keying. The window paints
  /// meanwhile; keys and buttons wait.
  void settle();
  /// Of the shown test as they are on disk, in their present place.
  nlohmann::json settings() const;

  /// What the shown test would come to with other settings, while somebody tries; on disk nothing
  /// changes. InputError as its method throws it.
  void preview(const nlohmann::json& settings);
  /// Reads the shown test again after a change that is no edit; of `changed` the headline too.
  void reload(Id changed = 0) { after_change(changed); }

  /// Why a test may not be changed: read only, or signed off. Nothing if it may; 0 asks only
  /// whether the shack can be written.
  std::optional<Refusal> refusal(Id test) const;

  using Change = std::function<void()>;
  /// How a change of a test is done.
  struct EditRules {
    bool even_if_signed = false;
    /// Consecutive edits with the same one are one step of undo: above 0 the last text counts,
    /// below 0 all of them are done and undone together.
    Id typed_in = 0;
  };
  /// Does a change of a test now, as one step of undo; after it, and each time it is undone or done
  /// again, the headline and the views are refreshed. Refused if read-only, or signed.
  void change_test(Id test, const QString& text, const Change& redo, const Change& undo,
                   EditRules rules);
  void change_test(Id test, const QString& text, const Change& redo, const Change& undo) {
    change_test(test, text, redo, undo, EditRules());
  }
  /// The same for anything else in the shack.
  void change_shack(const QString& text, const Change& redo, const Change& undo) {
    change_test(0, text, redo, undo, {.even_if_signed = true});
  }
  /// As the shown test, or a step of it, is on disk, whatever is still being worked out; empty if
  /// there is none.
  Test on_disk() const;
  Step step_on_disk(std::size_t step) const;

 signals:
  void shack_opened();
  void evaluation_shown();
  void evaluation_gone();  ///< the shown one was removed, or undone
  void course_changed();
  void shack_changed();  ///< anything on disk, after it was done or undone
  void test_changed();   ///< figures or settings of the shown test
  void refused(const QString& what, const QString& what_to_do);

 private:
  void after_change(Id test);
  /// Shows the test when it is worked out; one that was changed gets its headline then.
  void ask_for(Id test, bool is_changed);
  /// Until all is worked out, whatever the window does.
  void finish();
  /// Whether anything came.
  bool wait_for(std::chrono::milliseconds at_most);
  void tell();
  /// What is done is shown, and kept in the shack; whether anything was.
  bool receive();
  std::unique_ptr<Shack> shack_;
  std::unique_ptr<Evaluator> evaluator_;  ///< gone before the shack
  bool is_waiting_ = false;
  QUndoStack undo_;
  Id evaluation_ = 0;
  Id test_ = 0;
  std::vector<Test> course_;
  LoadedTest shown_;
};

}  // namespace heron
