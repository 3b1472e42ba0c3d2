#pragma once

#include "app/session/session.h"
#include "store/capture_files.h"
#include "store/result_record.h"

namespace heron {

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

/// A field of a step.
struct FieldPlace {
  Id step = 0;
  const TypedField* field = nullptr;
};

/// Where a recording goes: onto a step, or onto a new one of this name.
struct RecordingPlace {
  Id test = 0;
  Id step = 0;
  QString new_step = {};
  std::optional<AddedAttenuation> added = std::nullopt;  ///< beside the step's own
  Id batch = 0;  ///< recordings of one batch, one after the other, are one press of undo
  std::vector<Reading> readings = {};  ///< that instruments gave with it
};

/// Changes of steps and of what was read and recorded on them, each an undoable step of the
/// session. A step by its index is one of the shown test.
class StepEdits {
 public:
  explicit StepEdits(Session& session) : session_(session) {}
  void set_output(std::size_t step, const QString& typed, std::optional<double> dbm);
  void set_step_label(std::size_t step, const QString& label);
  /// InputError if something cannot be read; then nothing is changed.
  void set_fields(const QString& what, const std::vector<TypedCells>& steps);
  /// Whether what stands in fields is to be read again; what is empty stays so.
  void set_provisional(const std::vector<FieldPlace>& places, bool is_provisional);
  /// Returns its id; 0 if it was refused.
  Id add_step(const QString& label,
              const std::optional<std::pair<double, double>>& sweep_hz = std::nullopt);
  /// Several at once, with the settings that go with them.
  void plan_steps(const StepPlan& plan);
  void remove_step(std::size_t step);
  void remove_capture(std::size_t step);
  /// The step's self-test and repeats.
  void remove_beside(std::size_t step);
  /// A recording that is stored and analysed becomes the step's current one. Returns the step; 0 if
  /// it was refused.
  Id attach(const RecordingPlace& place, const StoredCapture& capture,
            const AnalysisRecord& analysis);
  /// What instruments showed at a step, and under what; of the same quantity and time the last
  /// counts.
  void add_readings(Id test, Id step, const QString& what, const std::vector<Reading>& readings,
                    const std::vector<Condition>& conditions = {});
  /// What the same recording says when another part of it is measured.
  void set_analysis(Id test, Id step_capture, const AnalysisRecord& analysis);

 private:
  Session& session_;
};

}  // namespace heron
