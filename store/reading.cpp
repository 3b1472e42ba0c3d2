#include "store/reading.h"

#include "store/rows.h"

namespace heron {
namespace {

constexpr const char* kReadingColumns =
    "r.id, r.quantity, r.value, r.unit, r.u, r.convention, r.bound, r.typed, r.source, r.role, "
    "r.at, r.instrument, r.is_provisional, r.step_id";

bool is_number(const SQLite::Column& column) {
  return column.isFloat() || column.isInteger();
}

Reading reading_of(SQLite::Statement& row) {
  if (!is_number(row.getColumn(2)) || !is_number(row.getColumn(4)))
    throw InputError("shack", "a reading", "it is not a number", "Type the reading again");
  Reading r;
  r.quantity = row.getColumn(1).getString();
  r.value = row.getColumn(2).getDouble();
  r.unit = row.getColumn(3).getString();
  r.u = row.getColumn(4).getDouble();
  r.convention = row.getColumn(5).getString();
  r.bound = bound_from_name(row.getColumn(6).getString());
  r.typed = row.getColumn(7).getString();
  r.source = source_from_name(row.getColumn(8).getString());
  r.role = role_from_name(row.getColumn(9).getString());
  r.at = row.getColumn(10).getString();
  r.instrument = row.getColumn(11).getString();
  r.is_provisional = row.getColumn(12).getInt() != 0;
  return r;
}

Condition condition_of(SQLite::Statement& row, int first) {
  return {row.getColumn(first).getString(), row.getColumn(first + 1).getDouble(),
          row.getColumn(first + 2).getString(), row.getColumn(first + 3).getString()};
}

void take_away(SQLite::Database& db, Id step, const std::string& quantity, Id step_capture) {
  SQLite::Statement remove(
      db,
      "UPDATE condition SET removed_at = ? WHERE step_id = ? AND step_capture_id IS ? AND "
      "quantity = ? AND removed_at IS NULL");
  remove.bind(1, utc_now());
  remove.bind(2, static_cast<int64_t>(step));
  if (step_capture != 0) remove.bind(3, static_cast<int64_t>(step_capture));
  remove.bind(4, quantity);
  remove.exec();
}

}  // namespace

void insert_reading(SQLite::Database& db, Id step, const Reading& r) {
  SQLite::Statement insert(
      db,
      "INSERT INTO reading(step_id, quantity, value, unit, u, convention, bound, typed, source, "
      "role, at, instrument, is_provisional) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)");
  insert.bind(1, static_cast<int64_t>(step));
  insert.bind(2, r.quantity);
  insert.bind(3, r.value);
  insert.bind(4, r.unit);
  insert.bind(5, r.u);
  insert.bind(6, r.convention);
  insert.bind(7, bound_name(r.bound));
  insert.bind(8, r.typed);
  insert.bind(9, source_name(r.source));
  insert.bind(10, role_name(r.role));
  insert.bind(11, r.at);
  insert.bind(12, r.instrument);
  insert.bind(13, r.is_provisional ? 1 : 0);
  insert.exec();
}

void insert_condition(SQLite::Database& db, Id step, const Condition& c, Id step_capture) {
  SQLite::Statement insert(
      db,
      "INSERT INTO condition(step_id, step_capture_id, quantity, value, unit, typed) VALUES (?, ?, "
      "?, ?, ?, ?)");
  insert.bind(1, static_cast<int64_t>(step));
  if (step_capture != 0) insert.bind(2, static_cast<int64_t>(step_capture));
  insert.bind(3, c.quantity);
  insert.bind(4, c.value);
  insert.bind(5, c.unit);
  insert.bind(6, c.typed);
  insert.exec();
}

std::map<Id, std::vector<Reading>> readings_of_test(const Shack& shack, Id test) {
  std::map<Id, std::vector<Reading>> all;
  rows_of(shack,
          std::string("SELECT ") + kReadingColumns +
              " FROM reading r JOIN step s ON s.id = r.step_id WHERE s.test_id = ? AND "
              "s.removed_at IS NULL AND r.removed_at IS NULL ORDER BY r.id",
          test, [&](SQLite::Statement& row) {
            Reading r;
            try {
              r = reading_of(row);
            } catch (const InputError&) {
              r.quantity = kDamagedReading;
            }
            r.id = row.getColumn(0).getInt64();
            all[row.getColumn(13).getInt64()].push_back(std::move(r));
            return 0;
          });
  return all;
}

Id add_reading(Shack& shack, Id step, const Reading& reading) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    insert_reading(db, step, reading);
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_reading_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "reading", id, removed);
}

void set_reading_provisional(Shack& shack, Id step, const std::string& quantity, ReadingRole role,
                             bool is_provisional) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement set(db,
                          "UPDATE reading SET is_provisional = ? WHERE id = (SELECT max(id) FROM "
                          "reading WHERE step_id = ? AND quantity = ? AND role = ? AND removed_at "
                          "IS NULL)");
    set.bind(1, is_provisional ? 1 : 0);
    set.bind(2, static_cast<int64_t>(step));
    set.bind(3, quantity);
    set.bind(4, role_name(role));
    set.exec();
  });
}

void replace_typed_readings(Shack& shack, Id step, const std::vector<std::string>& quantities,
                            const std::vector<Reading>& readings, std::optional<ReadingRole> role) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement remove(
        db,
        "UPDATE reading SET removed_at = ?1 WHERE step_id = ?2 AND quantity = ?3 AND source NOT "
        "IN ('live', 'imported', 'derived') AND removed_at IS NULL AND (?4 IS NULL OR role = ?4)");
    for (const std::string& quantity : quantities) {
      remove.bind(1, utc_now());
      remove.bind(2, static_cast<int64_t>(step));
      remove.bind(3, quantity);
      if (role) remove.bind(4, role_name(*role));
      remove.exec();
      remove.reset();
    }
    for (const Reading& r : readings) insert_reading(db, step, r);
  });
}

std::map<Id, std::vector<Condition>> conditions_of_test(const Shack& shack, Id test) {
  std::map<Id, std::vector<Condition>> all;
  rows_of(shack,
          "SELECT c.step_id, c.quantity, c.value, c.unit, c.typed FROM condition c JOIN step s ON "
          "s.id = c.step_id WHERE s.test_id = ? AND c.step_capture_id IS NULL AND c.removed_at IS "
          "NULL AND s.removed_at IS NULL ORDER BY c.id",
          test, [&](SQLite::Statement& row) {
            all[row.getColumn(0).getInt64()].push_back(condition_of(row, 1));
            return 0;
          });
  return all;
}

std::vector<Condition> conditions_of_capture(const Shack& shack, Id step_capture) {
  return rows_of(shack,
                 "SELECT quantity, value, unit, typed FROM condition WHERE step_capture_id = ? AND "
                 "removed_at IS NULL ORDER BY id",
                 step_capture, [](SQLite::Statement& row) { return condition_of(row, 0); });
}

void remove_condition(Shack& shack, Id step, const std::string& quantity) {
  shack.write([&](SQLite::Database& db) { take_away(db, step, quantity, 0); });
}

void set_condition(Shack& shack, Id step, const Condition& condition, Id step_capture) {
  shack.write([&](SQLite::Database& db) {
    take_away(db, step, condition.quantity, step_capture);
    insert_condition(db, step, condition, step_capture);
  });
}

}  // namespace heron
