// Edits of steps and readings; the rest of the session is in session.cpp.
#include <QUndoCommand>
#include <algorithm>

#include "app/session/session.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "store/clock.h"
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

void Session::set_output(std::size_t step, const QString& typed, std::optional<double> dbm) {
  const Step s = step_now(step);
  if (s.id == 0) return;
  const std::optional<TypedOutput> before = s.output;
  std::optional<TypedOutput> after;
  // A hand-held reading of a power meter is good to some 5 %: 0.1 dB standard uncertainty each way.
  if (dbm)
    after = TypedOutput{typed.toStdString(), *dbm, before && before->u_db > 0 ? before->u_db : 0.1};
  edit(
      tr("output of %1").arg(qt_text(s.label)),
      [this, id = s.id, after] { set_step_output(*shack_, id, after); },
      [this, id = s.id, before] { set_step_output(*shack_, id, before); });
}

void Session::set_driving(Id amplifier_test, Id pair_test) {
  const Test t = now();
  edit(
      tr("amplifier behind"),
      [this, id = test_, amplifier_test, pair_test] {
        set_test_driving(*shack_, id, amplifier_test, pair_test);
      },
      [this, id = test_, a = t.amplifier_test_id, p = t.pair_test_id] {
        set_test_driving(*shack_, id, a, p);
      });
}

void Session::set_step_label(std::size_t step, const QString& label) {
  const Step s = step_now(step);
  if (s.id == 0 || s.label == label.toStdString() || label.trimmed().isEmpty()) return;
  edit(
      tr("name of a step"),
      [this, id = s.id, label] {
        heron::set_step_label(*shack_, id, label.trimmed().toStdString());
      },
      [this, id = s.id, before = s.label] { heron::set_step_label(*shack_, id, before); });
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
KeptCell read_cell(const Session::TypedCells::Cell& cell, const std::string& convention) {
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

void Session::set_fields(const QString& what, const std::vector<TypedCells>& typed) {
  const GeneralTest* t = general();
  if (t == nullptr) return;
  // Read before anything is written: what cannot be read changes nothing.
  std::vector<KeptCells> after;
  std::vector<KeptCells> before;
  std::vector<Id> read_live;  // goes too where a cell is emptied
  const std::vector<Step> present = steps(*shack_, test_);
  for (const TypedCells& step : typed) {
    KeptCells to{step.step, step.label.toStdString(), {}};
    for (const TypedCells::Cell& cell : step.cells)
      to.cells.push_back(read_cell(cell, t->evidence.convention));
    after.push_back(std::move(to));
    for (const Step& s : present) {
      if (s.id != step.step) continue;
      KeptCells was{step.step, s.label, {}};
      for (const TypedCells::Cell& cell : step.cells) {
        was.cells.push_back(kept_cell(*cell.field, s));
        if (cell.typed.empty()) add_live_readings(*cell.field, s, read_live);
      }
      before.push_back(std::move(was));
    }
  }
  auto added = std::make_shared<AddedSteps>(*shack_, test_);
  edit(
      what,
      [this, after, added, read_live] {
        added->begin();
        for (const Id id : read_live) set_reading_removed(*shack_, id, true);
        for (KeptCells to : after) {
          if (to.step == 0) to.step = added->add(to.label);
          put_cells(*shack_, to);
        }
      },
      [this, before, added, read_live] {
        for (const KeptCells& was : before) put_cells(*shack_, was);
        for (const Id id : read_live) set_reading_removed(*shack_, id, false);
        added->remove();
      });
}

Id Session::add_step(const QString& label,
                     const std::optional<std::pair<double, double>>& sweep_hz) {
  auto id = std::make_shared<Id>(0);
  edit(
      tr("step %1").arg(label),
      [this, id, test = test_, label, sweep_hz] {
        if (*id == 0)
          *id = heron::add_step(*shack_, test, label.toStdString(), sweep_hz);
        else
          set_step_removed(*shack_, *id, false);
      },
      [this, id] { set_step_removed(*shack_, *id, true); });
  return *id;
}

void Session::plan_steps(const StepPlan& plan) {
  auto added = std::make_shared<AddedSteps>(*shack_, test_);
  edit(
      tr("planned steps"),
      [this, id = test_, plan, added] {
        set_test_settings(*shack_, id, plan.settings);
        added->begin();
        for (const std::string& label : plan.steps) added->add(label);
      },
      [this, id = test_, before = now().settings, added] {
        set_test_settings(*shack_, id, before);
        added->remove();
      });
}

void Session::remove_step(std::size_t step) {
  const Step s = step_now(step);
  if (s.id == 0) return;
  edit(
      tr("removal of %1").arg(qt_text(s.label)),
      [this, id = s.id] { set_step_removed(*shack_, id, true); },
      [this, id = s.id] { set_step_removed(*shack_, id, false); });
}

void Session::remove_capture(std::size_t step) {
  const Step s = step_now(step);
  if (!s.capture) return;
  edit(
      tr("removal of a recording"),
      [this, id = s.capture->id] { set_step_capture_removed(*shack_, id, true); },
      [this, id = s.capture->id] { set_step_capture_removed(*shack_, id, false); });
}

void Session::remove_beside(std::size_t step) {
  const Step s = step_now(step);
  if (s.id == 0) return;
  std::vector<Id> ids;
  if (s.self_test) ids.push_back(s.self_test->id);
  for (const StepCapture& c : s.repeats) ids.push_back(c.id);
  if (ids.empty()) return;
  const auto set = [this, ids](bool removed) {
    for (const Id id : ids) set_step_capture_removed(*shack_, id, removed);
  };
  edit(tr("removal of self-test and repeats"), [set] { set(true); }, [set] { set(false); });
}

}  // namespace heron
