#include "store/step.h"

#include "store/stored_json.h"

namespace heron {

std::vector<Step> steps(const Shack& shack, Id test) {
  std::vector<Step> all;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(
        db,
        "SELECT id, label, output_typed, output_dbm, output_u_db, note FROM step WHERE test_id "
        "= ? AND removed_at IS NULL ORDER BY position, id");
    rows.bind(1, static_cast<int64_t>(test));
    while (rows.executeStep()) {
      Step s;
      s.id = rows.getColumn(0).getInt64();
      s.test_id = test;
      s.label = rows.getColumn(1).getString();
      if (!rows.getColumn(3).isNull()) {
        s.output = TypedOutput{rows.getColumn(2).getString(), rows.getColumn(3).getDouble(),
                               rows.getColumn(4).getDouble()};
      }
      s.note = rows.getColumn(5).getString();
      SQLite::Statement latest(
          db,
          "SELECT sc.id, sc.capture_hash, c.name, sc.taken_at FROM step_capture sc JOIN capture "
          "c ON c.hash = sc.capture_hash WHERE sc.step_id = ? AND sc.removed_at IS NULL ORDER BY "
          "sc.id DESC LIMIT 1");
      latest.bind(1, static_cast<int64_t>(s.id));
      if (latest.executeStep()) {
        s.capture = StepCapture{latest.getColumn(0).getInt64(), latest.getColumn(1).getString(),
                                latest.getColumn(2).getString(), latest.getColumn(3).getString()};
      }
      all.push_back(s);
    }
  });
  return all;
}

Id add_step(Shack& shack, Id test, const std::string& label) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO step(test_id, position, label) VALUES (?1, (SELECT COALESCE(MAX(position), "
        "0) + 1 FROM step WHERE test_id = ?1), ?2)");
    insert.bind(1, static_cast<int64_t>(test));
    insert.bind(2, label);
    insert.exec();
    id = db.getLastInsertRowid();
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
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(
        db, "UPDATE step SET output_typed = ?, output_dbm = ?, output_u_db = ? WHERE id = ?");
    update.bind(1, output ? output->typed : "");
    if (output) {
      update.bind(2, output->dbm);
      update.bind(3, output->u_db);
    }
    update.bind(4, static_cast<int64_t>(id));
    update.exec();
  });
}

void set_step_capture_removed(Shack& shack, Id step_capture, bool removed) {
  set_removed(shack, "step_capture", step_capture, removed);
}

}  // namespace heron
