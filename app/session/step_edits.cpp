#include "app/session/step_edits.h"

#include <algorithm>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "store/clock.h"
#include "store/hookup.h"
#include "store/reading.h"
#include "store/result_record.h"

namespace heron {
namespace {

/// Steps that one edit adds: made when it is done first, brought back when it is done again.
class AddedSteps {
 public:
  AddedSteps(Shack& shack, Id test) : shack_(shack), test_(test) {}
  void begin() { next_ = 0; }
  Id add(const std::string& label) {
    if (next_ == ids_.size()) ids_.push_back(heron::add_step(shack_, test_, label));
    set_step_removed(shack_, ids_[next_], false);
    return ids_[next_++];
  }
  void remove() const {
    for (const Id id : ids_) set_step_removed(shack_, id, true);
  }

 private:
  Shack& shack_;
  Id test_;
  std::vector<Id> ids_;
  std::size_t next_ = 0;
};

}  // namespace

void StepEdits::set_output(std::size_t step, const QString& typed, std::optional<double> dbm) {
  Session& s = session_;
  const Step now = s.step_on_disk(step);
  if (now.id == 0) return;
  const std::optional<TypedOutput> before = now.output;
  std::optional<TypedOutput> after;
  // A hand-held reading of a power meter is good to some 5 %: 0.1 dB standard uncertainty each way.
  if (dbm)
    after = TypedOutput{typed.toStdString(), *dbm, before && before->u_db > 0 ? before->u_db : 0.1};
  s.change_test(
      s.test_id(), s.tr("output of %1").arg(qt_text(now.label)),
      [&s, id = now.id, after] { set_step_output(s.shack(), id, after); },
      [&s, id = now.id, before] { set_step_output(s.shack(), id, before); });
}

void StepEdits::set_step_label(std::size_t step, const QString& label) {
  Session& s = session_;
  const Step now = s.step_on_disk(step);
  if (now.id == 0 || now.label == label.toStdString() || label.trimmed().isEmpty()) return;
  s.change_test(
      s.test_id(), s.tr("name of a step"),
      [&s, id = now.id, label] {
        heron::set_step_label(s.shack(), id, label.trimmed().toStdString());
      },
      [&s, id = now.id, before = now.label] { heron::set_step_label(s.shack(), id, before); });
}

namespace {

/// What a field of a step holds; neither = nothing.
struct KeptCell {
  const TypedField* field = nullptr;
  std::optional<Reading> reading = std::nullopt;
  std::optional<Condition> condition = std::nullopt;
};
struct KeptCells {
  Id step = 0;
  std::string label;
  std::vector<KeptCell> cells;
};

/// InputError if it cannot be read.
KeptCell read_cell(const TypedCells::Cell& cell, const std::string& convention) {
  KeptCell kept{cell.field};
  if (cell.typed.empty()) return kept;
  if (cell.field->kind == TypedField::Kind::reading) {
    kept.reading = read_typed(*cell.field, cell.typed, convention);
    kept.reading->at = utc_now();
  } else {
    kept.condition = condition_typed(*cell.field, cell.typed);
  }
  return kept;
}

/// As it stands now: what somebody typed, not what an instrument read.
KeptCell kept_cell(const TypedField& field, const Step& step) {
  KeptCell kept{&field};
  const std::string quantity(field.quantity);
  if (field.kind == TypedField::Kind::condition) {
    if (const Condition* c = find_condition(step.conditions, quantity)) kept.condition = *c;
    return kept;
  }
  for (const Reading& r : step.readings) {
    if (r.quantity == quantity && r.role == field.role && r.source == ReadingSource::typed)
      kept.reading = r;
  }
  return kept;
}

/// What instruments showed for a field of a step.
void add_live_readings(const TypedField& field, const Step& step, std::vector<Id>& ids) {
  if (field.kind != TypedField::Kind::reading) return;
  for (const Reading& r : step.readings) {
    if (r.quantity == field.quantity && r.role == field.role && r.source != ReadingSource::typed)
      ids.push_back(r.id);
  }
}

void put_cells(Shack& shack, const KeptCells& to) {
  heron::set_step_label(shack, to.step, to.label);
  for (const KeptCell& cell : to.cells) {
    const std::string quantity(cell.field->quantity);
    if (cell.field->kind == TypedField::Kind::reading)
      // What was damaged is typed again.
      replace_typed_readings(shack, to.step, {quantity, kDamagedReading},
                             cell.reading ? std::vector{*cell.reading} : std::vector<Reading>{},
                             cell.field->role);
    else if (cell.condition)
      set_condition(shack, to.step, *cell.condition);
    else
      remove_condition(shack, to.step, quantity);
  }
}

}  // namespace

void StepEdits::set_fields(const QString& what, const std::vector<TypedCells>& typed) {
  Session& s = session_;
  const GeneralTest* t = s.general();
  if (t == nullptr) return;
  // Read before anything is written: what cannot be read changes nothing.
  std::vector<KeptCells> after;
  std::vector<KeptCells> before;
  std::vector<Id> read_live;  // goes too where a cell is emptied
  const std::vector<Step> present = steps(s.shack(), s.test_id());
  for (const TypedCells& step : typed) {
    KeptCells to{step.step, step.label.toStdString(), {}};
    for (const TypedCells::Cell& cell : step.cells)
      to.cells.push_back(read_cell(cell, t->evidence.convention));
    after.push_back(std::move(to));
    for (const Step& one : present) {
      if (one.id != step.step) continue;
      KeptCells was{step.step, one.label, {}};
      for (const TypedCells::Cell& cell : step.cells) {
        was.cells.push_back(kept_cell(*cell.field, one));
        if (cell.typed.empty()) add_live_readings(*cell.field, one, read_live);
      }
      before.push_back(std::move(was));
    }
  }
  auto added = std::make_shared<AddedSteps>(s.shack(), s.test_id());
  s.change_test(
      s.test_id(), what,
      [&s, after, added, read_live] {
        added->begin();
        for (const Id id : read_live) set_reading_removed(s.shack(), id, true);
        for (KeptCells to : after) {
          if (to.step == 0) to.step = added->add(to.label);
          put_cells(s.shack(), to);
        }
      },
      [&s, before, added, read_live] {
        for (const KeptCells& was : before) put_cells(s.shack(), was);
        for (const Id id : read_live) set_reading_removed(s.shack(), id, false);
        added->remove();
      });
}

void StepEdits::set_provisional(const std::vector<FieldPlace>& places, bool is_provisional) {
  Session& s = session_;
  std::vector<FieldPlace> changed;
  for (const Step& step : steps(s.shack(), s.test_id()))
    for (const FieldPlace& place : places) {
      if (place.step != step.id || place.field->kind != TypedField::Kind::reading) continue;
      const Reading* r =
          find_reading(step.readings, std::string(place.field->quantity), place.field->role);
      if (r != nullptr && r->is_provisional != is_provisional) changed.push_back(place);
    }
  if (changed.empty()) return;
  const auto set = [&s, changed](bool now) {
    for (const FieldPlace& place : changed)
      set_reading_provisional(s.shack(), place.step, std::string(place.field->quantity),
                              place.field->role, now);
  };
  s.change_test(
      s.test_id(), is_provisional ? s.tr("provisional reading") : s.tr("no longer provisional"),
      [set, is_provisional] { set(is_provisional); },
      [set, is_provisional] { set(!is_provisional); });
}

Id StepEdits::add_step(const QString& label,
                       const std::optional<std::pair<double, double>>& sweep_hz) {
  Session& s = session_;
  auto id = std::make_shared<Id>(0);
  s.change_test(
      s.test_id(), s.tr("step %1").arg(label),
      [&s, id, test = s.test_id(), label, sweep_hz] {
        if (*id == 0)
          *id = heron::add_step(s.shack(), test, label.toStdString(), sweep_hz);
        else
          set_step_removed(s.shack(), *id, false);
      },
      [&s, id] { set_step_removed(s.shack(), *id, true); });
  return *id;
}

void StepEdits::plan_steps(const StepPlan& plan) {
  Session& s = session_;
  auto added = std::make_shared<AddedSteps>(s.shack(), s.test_id());
  s.change_test(
      s.test_id(), s.tr("planned steps"),
      [&s, id = s.test_id(), plan, added] {
        set_test_settings(s.shack(), id, plan.settings);
        added->begin();
        for (const std::string& label : plan.steps) added->add(label);
      },
      [&s, id = s.test_id(), before = s.on_disk().settings, added] {
        set_test_settings(s.shack(), id, before);
        added->remove();
      });
}

void StepEdits::remove_step(std::size_t step) {
  Session& s = session_;
  const Step now = s.step_on_disk(step);
  if (now.id == 0) return;
  s.change_test(
      s.test_id(), s.tr("removal of %1").arg(qt_text(now.label)),
      [&s, id = now.id] { set_step_removed(s.shack(), id, true); },
      [&s, id = now.id] { set_step_removed(s.shack(), id, false); });
}

void StepEdits::remove_capture(std::size_t step) {
  Session& s = session_;
  const Step now = s.step_on_disk(step);
  if (!now.capture) return;
  s.change_test(
      s.test_id(), s.tr("removal of a recording"),
      [&s, id = now.capture->id] { set_step_capture_removed(s.shack(), id, true); },
      [&s, id = now.capture->id] { set_step_capture_removed(s.shack(), id, false); });
}

void StepEdits::remove_beside(std::size_t step) {
  Session& s = session_;
  const Step now = s.step_on_disk(step);
  if (now.id == 0) return;
  std::vector<Id> ids;
  if (now.self_test) ids.push_back(now.self_test->id);
  for (const StepCapture& c : now.repeats) ids.push_back(c.id);
  if (ids.empty()) return;
  const auto set = [&s, ids](bool removed) {
    for (const Id id : ids) set_step_capture_removed(s.shack(), id, removed);
  };
  s.change_test(
      s.test_id(), s.tr("removal of self-test and repeats"), [set] { set(true); },
      [set] { set(false); });
}

Id StepEdits::attach(const RecordingPlace& place, const StoredCapture& capture,
                     const AnalysisRecord& analysis) {
  Session& s = session_;
  struct Kept {
    Id step = 0;
    Id step_capture = 0;
    std::vector<Id> readings;
  };
  auto kept = std::make_shared<Kept>();
  // The recording may land after another test was opened: it belongs to the one it was dropped on.
  s.change_test(
      place.test, s.tr("recording %1").arg(qt_text(capture.info.name)),
      [&s, kept, place, capture, analysis] {
        if (kept->step_capture != 0) {
          if (place.step == 0) set_step_removed(s.shack(), kept->step, false);
          set_step_capture_removed(s.shack(), kept->step_capture, false);
          for (const Id id : kept->readings) set_reading_removed(s.shack(), id, false);
          return;
        }
        Attachment attachment;
        attachment.added = place.added;
        const Id hookup = heron::test(s.shack(), place.test).hookup_id;
        if (hookup != 0) attachment.hookup_version_id = latest_version(s.shack(), hookup).id;
        const Id step = place.step != 0
                            ? place.step
                            : heron::add_step(s.shack(), place.test, place.new_step.toStdString());
        const Id attached = attach_capture(s.shack(), step, capture, attachment);
        save_result(s.shack(), attached, analysis.method, analysis.record);
        if (hookup != 0) pin_records(s.shack(), place.test);
        std::vector<Id> readings;
        for (const Reading& r : place.readings) readings.push_back(add_reading(s.shack(), step, r));
        *kept = {step, attached, std::move(readings)};  // only when all are written
      },
      [&s, kept, place] {
        set_step_capture_removed(s.shack(), kept->step_capture, true);
        for (const Id id : kept->readings) set_reading_removed(s.shack(), id, true);
        if (place.step == 0) set_step_removed(s.shack(), kept->step, true);
      },
      {.typed_in = place.batch});
  return kept->step_capture != 0 ? kept->step : 0;
}

void StepEdits::add_readings(Id test, Id step, const QString& what,
                             const std::vector<Reading>& readings,
                             const std::vector<Condition>& conditions) {
  Session& s = session_;
  auto kept = std::make_shared<std::vector<Id>>();
  auto before = std::make_shared<std::vector<Condition>>();
  s.change_test(
      test, what,
      [&s, kept, before, test, step, readings, conditions] {
        *before = conditions_of_test(s.shack(), test)[step];
        for (const Condition& c : conditions) set_condition(s.shack(), step, c);
        for (const Id id : *kept) set_reading_removed(s.shack(), id, false);
        if (!kept->empty()) return;
        std::vector<Id> added;
        for (const Reading& r : readings) added.push_back(add_reading(s.shack(), step, r));
        *kept = std::move(added);  // only when all are written
      },
      [&s, kept, before, step, conditions] {
        for (const Id id : *kept) set_reading_removed(s.shack(), id, true);
        for (const Condition& c : conditions) {
          const Condition* was = find_condition(*before, c.quantity);
          if (was != nullptr)
            set_condition(s.shack(), step, *was);
          else
            remove_condition(s.shack(), step, c.quantity);
        }
      });
}

void StepEdits::set_analysis(Id test, Id step_capture, const AnalysisRecord& analysis) {
  Session& s = session_;
  const auto before = load_result(s.shack(), step_capture);
  s.change_test(
      test, s.tr("measured part"),
      [&s, test, step_capture, analysis] {
        save_result(s.shack(), step_capture, analysis.method, analysis.record);
        pin_records(s.shack(), test);
      },
      [&s, step_capture, method = analysis.method, before] {
        if (before) save_result(s.shack(), step_capture, method, *before);
      });
}

}  // namespace heron
