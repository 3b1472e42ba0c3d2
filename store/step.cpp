#include "store/step.h"

#include "core/method/place_name.h"
#include "store/reading.h"
#include "store/rows.h"

namespace heron {

namespace {

/// What every step may have, as those who measure it want it.
void sort_readings(Step& s) {
  for (const Reading& r : s.readings) {
    if (r.source != ReadingSource::typed || r.role != ReadingRole::at) continue;
    const auto use = [&] {
      if (r.quantity == kDamagedReading) throw InputError("reading", "", "damaged", "");
      if (r.quantity == kOutput) {
        if (r.unit != "dBm") throw InputError("reading", "unit", "it is not dBm", "Type it again");
        s.output = TypedOutput{r.typed, r.value, r.u};
      }
      return true;
    };
    // Named once, however many there are.
    std::string damage;
    read_or_damage(damage, "typed readings", use);
    if (s.damage.find(damage) == std::string::npos) add_damage(s.damage, damage);
  }
  const Condition* from = find_condition(s.conditions, kSweepFrom);
  const Condition* to = find_condition(s.conditions, kSweepTo);
  if (from != nullptr && to != nullptr && from->value > 0.0 && from->value < to->value)
    s.sweep_hz = {from->value, to->value};
}

void read_captures(SQLite::Database& db, Step& s) {
  SQLite::Statement rows(
      db,
      "SELECT sc.id, sc.capture_hash, c.name, sc.taken_at, sc.hookup_version_id, added.value, "
      "added.typed FROM step_capture sc JOIN capture c ON c.hash = sc.capture_hash LEFT JOIN "
      "condition added ON added.step_capture_id = sc.id AND added.quantity = ? AND "
      "added.removed_at IS NULL WHERE sc.step_id = ? AND sc.removed_at IS NULL ORDER BY sc.id "
      "DESC");
  rows.bind(1, kAddedAttenuation);
  rows.bind(2, static_cast<int64_t>(s.id));
  while (rows.executeStep()) {
    StepCapture c{rows.getColumn(0).getInt64(),
                  rows.getColumn(1).getString(),
                  rows.getColumn(2).getString(),
                  rows.getColumn(3).getString(),
                  rows.getColumn(4).isNull() ? 0 : rows.getColumn(4).getInt64(),
                  std::nullopt};
    if (!rows.getColumn(5).isNull())
      c.added = AddedAttenuation{rows.getColumn(5).getDouble(), rows.getColumn(6).getString()};
    if (!c.added) {
      if (!s.capture) s.capture = c;
    } else if (c.added->db == 0.0) {
      s.repeats.push_back(c);
    } else if (!s.self_test) {
      s.self_test = c;
    }
  }
}

}  // namespace

Reading to_reading(const TypedOutput& output) {
  Reading r;
  r.quantity = kOutput;
  r.value = output.dbm;
  r.unit = "dBm";
  r.convention = "PEP";
  r.u = output.u_db;
  r.typed = output.typed;
  return r;
}

std::optional<std::pair<double, double>> swept_hz(const Step& step) {
  return step.sweep_hz ? step.sweep_hz : named_sweep_hz(step.label);
}

std::vector<Step> steps(const Shack& shack, Id test) {
  std::vector<Step> all =
      rows_of(shack,
              "SELECT id, label, note FROM step WHERE test_id = ? AND removed_at IS NULL ORDER BY "
              "position, id",
              test, [&](SQLite::Statement& row) {
                Step s;
                s.id = row.getColumn(0).getInt64();
                s.test_id = test;
                s.label = row.getColumn(1).getString();
                s.note = row.getColumn(2).getString();
                return s;
              });
  auto readings = readings_of_test(shack, test);
  auto conditions = conditions_of_test(shack, test);
  shack.read([&](SQLite::Database& db) {
    for (Step& s : all) {
      s.readings = std::move(readings[s.id]);
      s.conditions = std::move(conditions[s.id]);
      sort_readings(s);
      read_captures(db, s);
    }
  });
  return all;
}

Id add_step(Shack& shack, Id test, const std::string& label,
            const std::optional<std::pair<double, double>>& sweep_hz) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO step(test_id, position, label) VALUES (?1, (SELECT COALESCE(MAX(position), 0) "
        "+ 1 FROM step WHERE test_id = ?1), ?2)");
    insert.bind(1, static_cast<int64_t>(test));
    insert.bind(2, label);
    insert.exec();
    id = db.getLastInsertRowid();
    if (sweep_hz) {
      insert_condition(db, id, {kSweepFrom, sweep_hz->first, "Hz"});
      insert_condition(db, id, {kSweepTo, sweep_hz->second, "Hz"});
    }
  });
  return id;
}

void set_step_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "step", id, removed);
}
void set_step_label(Shack& shack, Id id, const std::string& label) {
  set_column(shack, "step", "label", id, label);
}

void set_step_output(Shack& shack, Id id, const std::optional<TypedOutput>& output) {
  std::vector<Reading> readings;
  if (output) readings.push_back(to_reading(*output));
  replace_typed_readings(shack, id, {kOutput}, readings);
}

void set_step_capture_hookup(Shack& shack, Id step_capture, Id hookup_version) {
  set_reference(shack, "step_capture", "hookup_version_id", step_capture, hookup_version);
}

void set_step_capture_removed(Shack& shack, Id step_capture, bool removed) {
  set_removed(shack, "step_capture", step_capture, removed);
}

}  // namespace heron
