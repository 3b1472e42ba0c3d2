#pragma once

#include <QObject>
#include <QUndoStack>
#include <chrono>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "store/capture_files.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/evaluator.h"
#include "store/loaded.h"
#include "store/result_record.h"
#include "store/shack.h"

namespace heron {

struct UnpackedEvaluation;

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
  /// the older state in between.
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
  /// Until it is there: for what may not go by anything older, such as keying.
  void settle();
  /// Of the shown test as they are on disk, in their present place.
  nlohmann::json settings() const;

  /// Reads the shown test again after a change that is no edit.
  void reload() { after_change(0); }

  /// Why a test may not be changed: read only, or signed off. Nothing if it may; 0 asks only
  /// whether the shack can be written.
  std::optional<Refusal> refusal(Id test) const;

  // Edits; each can be undone. A signed test refuses all but its signature being taken back.
  void set_output(std::size_t step, const QString& typed, std::optional<double> dbm);
  void set_note(const QString& note);
  void set_convention(const QString& convention);
  void set_limit(const std::optional<Limit>& limit);
  /// A test of the device that is driven, measured alone, and of both; 0 = none.
  void set_driving(Id amplifier_test, Id pair_test);
  void set_step_label(std::size_t step, const QString& label);
  /// What was typed into fields of one or more steps, in one step of undo. Step 0 is a new one of
  /// that name; an empty text takes the reading away.
  struct TypedCells {
    Id step = 0;
    QString label;
    struct Cell {
      const TypedField* field;
      std::string typed;
    };
    std::vector<Cell> cells;
  };
  void set_fields(const QString& what, const std::vector<TypedCells>& steps);
  void set_hookup(const QString& words);
  void set_conditions(const QString& words);
  /// Makes the test's limit a line of the device's specification.
  void keep_limit_as_specification();
  void sign(const QString& name);
  void take_back_signature();
  /// Returns its id; 0 if it was refused.
  Id add_step(const QString& label,
              const std::optional<std::pair<double, double>>& sweep_hz = std::nullopt);
  /// Several at once, with the settings that go with them.
  void plan_steps(const StepPlan& plan);
  void remove_step(std::size_t step);
  void remove_capture(std::size_t step);
  void add_test(const std::string& characteristic, const QString& title, const QString& conditions);
  void set_settings(const QString& what, const nlohmann::json& settings);
  void remove_test(Id test);
  // Devices and evaluations; each one press of undo.
  /// With its first evaluation, where a title is given. Returns that evaluation, else 0.
  Id add_device(const Device& device, const QString& first_evaluation = {});
  void set_device(Id id, const Device& device);
  void remove_device(Id id);
  /// With a first test in it.
  Id add_evaluation(Id device, const QString& title);
  void rename_evaluation(Id id, const QString& title);
  void remove_evaluation(Id id);
  /// An exported one, with what has to be made for it. Returns it, or 0.
  Id import_evaluation(const QString& name, std::shared_ptr<const UnpackedEvaluation> unpacked);

  /// Where a recording goes: onto a step, or onto a new one of this name.
  struct Place {
    Id test = 0;
    Id step = 0;
    QString new_step = {};
    std::optional<AddedAttenuation> added = std::nullopt;  ///< beside the step's own
    Id batch = 0;  ///< recordings of one batch, one after the other, are one press of undo
    std::vector<Reading> readings = {};  ///< that instruments gave with it
  };
  /// A recording that is stored and analysed becomes the step's current one. Returns the step; 0 if
  /// it was refused.
  Id attach(const Place& place, const StoredCapture& capture, const AnalysisRecord& analysis);
  /// What instruments showed at a step; of the same quantity and time the last counts.
  void add_readings(Id test, Id step, const QString& what, const std::vector<Reading>& readings);
  /// What the same recording says when another part of it is measured.
  void set_analysis(Id test, Id step_capture, const AnalysisRecord& analysis);
  /// The step's self-test and repeats.
  void remove_beside(std::size_t step);

  using Change = std::function<void()>;
  /// Any other change of the shack that can be undone; refused if read-only.
  void change_shack(const QString& text, const Change& redo, const Change& undo) {
    edit_test(0, text, redo, undo, true);
  }
  /// The same for a test, refused too if that is signed.
  void change_test(Id test, const QString& text, const Change& redo, const Change& undo) {
    edit_test(test, text, redo, undo, false);
  }

 signals:
  void shack_opened();
  void evaluation_shown();
  void evaluation_gone();  ///< the shown one was removed, or undone
  void course_changed();
  void shack_changed();  ///< anything on disk, after it was done or undone
  void test_changed();   ///< figures or settings of the shown test
  void refused(const QString& what, const QString& what_to_do);

 private:
  /// Runs redo now; after each redo and undo the headline and the views are refreshed.
  void edit(const QString& text, const Change& redo, const Change& undo,
            bool even_if_signed = false, Id typed_in = 0) {
    edit_test(test_, text, redo, undo, even_if_signed, typed_in);
  }
  /// Consecutive edits with the same `typed_in` are one step of undo: above 0 the last text counts,
  /// below 0 all of them are done and undone together.
  void edit_test(Id test, const QString& text, const Change& redo, const Change& undo,
                 bool even_if_signed, Id typed_in = 0);
  void after_change(Id test);
  /// Shows the test when it is worked out; one that was changed gets its headline then.
  void ask_for(Id test, bool is_changed);
  void wait_for(std::chrono::milliseconds at_most);
  /// What is done is shown, and kept in the shack; whether anything was.
  bool receive();
  /// As the shown test and its steps are on disk, whatever is still being worked out.
  Test now() const;
  Step step_now(std::size_t step) const;
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
