#pragma once

#include <SQLiteCpp/SQLiteCpp.h>
#include <string>
#include <vector>

namespace heron::testing {

/// A closed shack of today as an older version would have kept it. What a version did not know yet
/// is lost.
inline void make_older(SQLite::Database& db, int version) {
  db.exec("PRAGMA foreign_keys = OFF");
  const std::vector<std::vector<const char*>> back{
      {"DROP INDEX version_of_hookup", "DROP INDEX capture_on_version",
       "ALTER TABLE test DROP COLUMN hookup_id", "ALTER TABLE test DROP COLUMN drive_json",
       "ALTER TABLE test DROP COLUMN amplifier_test_id",
       "ALTER TABLE test DROP COLUMN pair_test_id", "ALTER TABLE step DROP COLUMN products_json",
       "ALTER TABLE step_capture DROP COLUMN hookup_version_id",
       "ALTER TABLE step_capture DROP COLUMN added_attenuation_db", "DROP TABLE vouched",
       "DROP TABLE hookup_version", "DROP TABLE hookup", "DROP TABLE bench_item"},
      {"ALTER TABLE step_capture DROP COLUMN added_attenuation_typed"},
      {"DROP TABLE instrument", "ALTER TABLE shack DROP COLUMN simulation_seed"},
      {"ALTER TABLE step DROP COLUMN sweep_from_hz", "ALTER TABLE step DROP COLUMN sweep_to_hz"},
      {"DROP TABLE hookup_draft"},
      {"ALTER TABLE step ADD COLUMN output_typed TEXT NOT NULL DEFAULT ''",
       "ALTER TABLE step ADD COLUMN output_dbm REAL",
       "ALTER TABLE step ADD COLUMN output_u_db REAL",
       "ALTER TABLE step ADD COLUMN products_json TEXT",
       "ALTER TABLE step ADD COLUMN sweep_from_hz REAL",
       "ALTER TABLE step ADD COLUMN sweep_to_hz REAL",
       "ALTER TABLE step_capture ADD COLUMN added_attenuation_db REAL",
       "ALTER TABLE step_capture ADD COLUMN added_attenuation_typed TEXT",
       "UPDATE step SET output_typed = r.typed, output_dbm = r.value, output_u_db = r.u FROM "
       "reading r WHERE r.step_id = step.id AND r.quantity = 'output' AND r.removed_at IS NULL",
       "UPDATE step SET products_json = (SELECT json_group_array(json_object('order', "
       "CAST(substr(quantity, 3) AS INTEGER), 'typed', typed, 'level_db', value, 'convention', "
       "convention, 'bound', json(CASE bound WHEN 'upper' THEN 'true' ELSE 'false' END))) FROM "
       "reading r WHERE r.step_id = step.id AND r.quantity LIKE 'im%' AND r.removed_at IS NULL "
       "HAVING COUNT(*) > 0)",
       "UPDATE step SET sweep_from_hz = c.value FROM condition c WHERE c.step_id = step.id AND "
       "c.quantity = 'sweep_from'",
       "UPDATE step SET sweep_to_hz = c.value FROM condition c WHERE c.step_id = step.id AND "
       "c.quantity = 'sweep_to'",
       "UPDATE step_capture SET added_attenuation_db = c.value, added_attenuation_typed = c.typed "
       "FROM condition c WHERE c.step_capture_id = step_capture.id",
       "DROP TABLE reading", "DROP TABLE condition", "DROP TABLE series_sample",
       "DROP TABLE series", "DROP TABLE event"},
      {"ALTER TABLE series DROP COLUMN remarks"},
      {"ALTER TABLE evaluation DROP COLUMN goal", "ALTER TABLE evaluation DROP COLUMN end_json"},
      {"ALTER TABLE device DROP COLUMN facts_json", "ALTER TABLE device DROP COLUMN photo",
       "ALTER TABLE device DROP COLUMN retired_at", "ALTER TABLE spec_line DROP COLUMN condition",
       "ALTER TABLE journal DROP COLUMN work_json", "DROP TABLE outside_figure"}};
  for (std::size_t from = back.size(); from >= static_cast<std::size_t>(version); --from) {
    for (const char* sql : back[from - 1]) db.exec(sql);
  }
  db.exec("PRAGMA user_version = " + std::to_string(version));
}

}  // namespace heron::testing
