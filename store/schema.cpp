#include "store/schema.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <array>
#include <string>

#include "store/older_step.h"

namespace heron {
namespace {

// Rows that a person removed keep their place with removed_at set: undo brings them back whole.
constexpr const char* kVersion1 = R"sql(
CREATE TABLE shack (
  id INTEGER PRIMARY KEY CHECK (id = 1),
  place TEXT NOT NULL,
  operator TEXT NOT NULL DEFAULT '',
  created_at TEXT NOT NULL
);
CREATE TABLE device (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (name <> ''),
  kind TEXT NOT NULL DEFAULT '',
  serial TEXT NOT NULL DEFAULT '',
  note TEXT NOT NULL DEFAULT '',
  created_at TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE spec_line (
  id INTEGER PRIMARY KEY,
  device_id INTEGER NOT NULL REFERENCES device(id) ON DELETE CASCADE,
  characteristic TEXT NOT NULL,
  limit_json TEXT NOT NULL
);
CREATE TABLE evaluation (
  id INTEGER PRIMARY KEY,
  device_id INTEGER NOT NULL REFERENCES device(id) ON DELETE CASCADE,
  title TEXT NOT NULL,
  started_at TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE test (
  id INTEGER PRIMARY KEY,
  evaluation_id INTEGER NOT NULL REFERENCES evaluation(id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  characteristic TEXT NOT NULL,
  title TEXT NOT NULL,
  hookup TEXT NOT NULL DEFAULT '',
  conditions TEXT NOT NULL DEFAULT '',
  convention TEXT NOT NULL DEFAULT '',
  settings_json TEXT NOT NULL DEFAULT '{}',
  limit_json TEXT,
  headline_json TEXT,
  note TEXT NOT NULL DEFAULT '',
  signed_by TEXT NOT NULL DEFAULT '',
  signed_at TEXT NOT NULL DEFAULT '',
  removed_at TEXT
);
CREATE TABLE step (
  id INTEGER PRIMARY KEY,
  test_id INTEGER NOT NULL REFERENCES test(id) ON DELETE CASCADE,
  position INTEGER NOT NULL,
  label TEXT NOT NULL,
  output_typed TEXT NOT NULL DEFAULT '',
  output_dbm REAL,
  output_u_db REAL,
  note TEXT NOT NULL DEFAULT '',
  removed_at TEXT
);
CREATE TABLE capture (
  hash TEXT PRIMARY KEY,
  name TEXT NOT NULL,
  format TEXT NOT NULL,
  sample_rate_hz REAL NOT NULL,
  frames INTEGER NOT NULL,
  added_at TEXT NOT NULL
);
CREATE TABLE step_capture (
  id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES step(id) ON DELETE CASCADE,
  capture_hash TEXT NOT NULL REFERENCES capture(hash),
  taken_at TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE result (
  step_capture_id INTEGER PRIMARY KEY REFERENCES step_capture(id) ON DELETE CASCADE,
  method TEXT NOT NULL,
  record_json TEXT NOT NULL,
  computed_at TEXT NOT NULL
);
CREATE TABLE journal (
  id INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  device_id INTEGER REFERENCES device(id) ON DELETE CASCADE,
  text TEXT NOT NULL
);
CREATE INDEX test_of_evaluation ON test(evaluation_id, position);
CREATE INDEX step_of_test ON step(test_id, position);
CREATE INDEX capture_of_step ON step_capture(step_id, id);
)sql";

// The bench, hook-ups with their versions, and what a recording was taken on.
constexpr const char* kVersion2 = R"sql(
CREATE TABLE bench_item (
  id INTEGER PRIMARY KEY,
  record_json TEXT NOT NULL,
  added_at TEXT NOT NULL,
  retired_at TEXT,
  removed_at TEXT
);
CREATE TABLE hookup (
  id INTEGER PRIMARY KEY,
  name TEXT NOT NULL CHECK (name <> ''),
  made_at TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE hookup_version (
  id INTEGER PRIMARY KEY,
  hookup_id INTEGER NOT NULL REFERENCES hookup(id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  chain_json TEXT NOT NULL,
  made_at TEXT NOT NULL,
  removed_at TEXT,
  UNIQUE (hookup_id, number)
);
CREATE TABLE vouched (
  id INTEGER PRIMARY KEY,
  test_id INTEGER NOT NULL REFERENCES test(id) ON DELETE CASCADE,
  hookup_version_id INTEGER NOT NULL REFERENCES hookup_version(id),
  pep_dbm REAL NOT NULL,
  by_name TEXT NOT NULL CHECK (by_name <> ''),
  why TEXT NOT NULL CHECK (why <> ''),
  at TEXT NOT NULL
);
ALTER TABLE test ADD COLUMN hookup_id INTEGER REFERENCES hookup(id);
ALTER TABLE test ADD COLUMN drive_json TEXT;
ALTER TABLE test ADD COLUMN amplifier_test_id INTEGER REFERENCES test(id) ON DELETE SET NULL;
ALTER TABLE test ADD COLUMN pair_test_id INTEGER REFERENCES test(id) ON DELETE SET NULL;
ALTER TABLE step ADD COLUMN products_json TEXT;
ALTER TABLE step_capture ADD COLUMN hookup_version_id INTEGER REFERENCES hookup_version(id);
ALTER TABLE step_capture ADD COLUMN added_attenuation_db REAL;
CREATE INDEX version_of_hookup ON hookup_version(hookup_id, number);
CREATE INDEX capture_on_version ON step_capture(hookup_version_id);
)sql";

constexpr const char* kVersion3 = R"sql(
ALTER TABLE step_capture ADD COLUMN added_attenuation_typed TEXT;
)sql";

// Instruments by themselves, and what the simulated ones are drawn from.
constexpr const char* kVersion4 = R"sql(
CREATE TABLE instrument (
  role TEXT PRIMARY KEY,
  name TEXT NOT NULL CHECK (name <> ''),
  address TEXT NOT NULL CHECK (address <> ''),
  profile_json TEXT NOT NULL DEFAULT '',
  identity TEXT NOT NULL DEFAULT ''
);
ALTER TABLE shack ADD COLUMN simulation_seed INTEGER;
)sql";

// A step that is a sweep of an analyser, whatever it is called.
constexpr const char* kVersion5 = R"sql(
ALTER TABLE step ADD COLUMN sweep_from_hz REAL;
ALTER TABLE step ADD COLUMN sweep_to_hz REAL;
)sql";

// What was built of a hook-up and not yet used; hookup_id 0 = one that is not there yet.
constexpr const char* kVersion6 = R"sql(
CREATE TABLE hookup_draft (
  hookup_id INTEGER PRIMARY KEY,
  chain_json TEXT NOT NULL,
  made_at TEXT NOT NULL
);
)sql";

// Evidence of any kind, whatever a test measures.
constexpr const char* kVersion7 = R"sql(
CREATE TABLE reading (
  id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES step(id) ON DELETE CASCADE,
  quantity TEXT NOT NULL CHECK (quantity <> ''),
  value REAL NOT NULL,
  unit TEXT NOT NULL,
  u REAL NOT NULL DEFAULT 0,
  convention TEXT NOT NULL DEFAULT '',
  bound TEXT NOT NULL DEFAULT '',
  typed TEXT NOT NULL DEFAULT '',
  source TEXT NOT NULL DEFAULT 'typed',
  role TEXT NOT NULL DEFAULT 'at',
  at TEXT NOT NULL DEFAULT '',
  instrument TEXT NOT NULL DEFAULT '',
  is_provisional INTEGER NOT NULL DEFAULT 0,
  removed_at TEXT
);
CREATE TABLE condition (
  id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES step(id) ON DELETE CASCADE,
  step_capture_id INTEGER REFERENCES step_capture(id) ON DELETE CASCADE,
  quantity TEXT NOT NULL CHECK (quantity <> ''),
  value REAL NOT NULL,
  unit TEXT NOT NULL,
  typed TEXT NOT NULL DEFAULT '',
  removed_at TEXT
);
CREATE TABLE series (
  id INTEGER PRIMARY KEY,
  step_id INTEGER NOT NULL REFERENCES step(id) ON DELETE CASCADE,
  quantity TEXT NOT NULL CHECK (quantity <> ''),
  unit TEXT NOT NULL,
  instrument TEXT NOT NULL DEFAULT '',
  started_at TEXT NOT NULL,
  removed_at TEXT
);
CREATE TABLE series_sample (
  series_id INTEGER NOT NULL REFERENCES series(id) ON DELETE CASCADE,
  number INTEGER NOT NULL,
  seconds REAL NOT NULL,
  value REAL NOT NULL,
  PRIMARY KEY (series_id, number)
) WITHOUT ROWID;
CREATE TABLE event (
  id INTEGER PRIMARY KEY,
  test_id INTEGER NOT NULL REFERENCES test(id) ON DELETE CASCADE,
  at TEXT NOT NULL,
  text TEXT NOT NULL,
  removed_at TEXT
);
CREATE INDEX reading_of_step ON reading(step_id, id);
CREATE INDEX condition_of_step ON condition(step_id, id);
CREATE INDEX condition_of_capture ON condition(step_capture_id);
CREATE INDEX series_of_step ON series(step_id, id);
CREATE INDEX event_of_test ON event(test_id, at);
)sql";

constexpr const char* kVersion8 = R"sql(
ALTER TABLE series ADD COLUMN remarks TEXT NOT NULL DEFAULT '[]';
)sql";

/// What an evaluation is for, and how it ended.
constexpr const char* kVersion9 = R"sql(
ALTER TABLE evaluation ADD COLUMN goal TEXT NOT NULL DEFAULT '';
ALTER TABLE evaluation ADD COLUMN end_json TEXT;
)sql";

/// What a device is, what was done to it, and what others found.
constexpr const char* kVersion10 = R"sql(
ALTER TABLE device ADD COLUMN facts_json TEXT NOT NULL DEFAULT '{}';
ALTER TABLE device ADD COLUMN photo BLOB;
ALTER TABLE device ADD COLUMN retired_at TEXT;
ALTER TABLE spec_line ADD COLUMN condition TEXT NOT NULL DEFAULT '';
ALTER TABLE journal ADD COLUMN work_json TEXT;
CREATE TABLE outside_figure (
  id INTEGER PRIMARY KEY,
  device_id INTEGER NOT NULL REFERENCES device(id) ON DELETE CASCADE,
  characteristic TEXT NOT NULL,
  figure_json TEXT NOT NULL,
  conditions TEXT NOT NULL DEFAULT '',
  source TEXT NOT NULL DEFAULT '',
  at TEXT NOT NULL,
  removed_at TEXT
);
CREATE INDEX outside_figure_of_device ON outside_figure(device_id, id);
)sql";

struct Migration {
  const char* sql;
  void (*move)(SQLite::Database&) = nullptr;  ///< what SQL alone cannot read
};

/// Element i leads from version i to i + 1. Only ever append.
constexpr std::array<Migration, 10> kMigrations{{{kVersion1},
                                                 {kVersion2},
                                                 {kVersion3},
                                                 {kVersion4},
                                                 {kVersion5},
                                                 {kVersion6},
                                                 {kVersion7, move_older_steps},
                                                 {kVersion8},
                                                 {kVersion9},
                                                 {kVersion10}}};

}  // namespace

int schema_version() {
  return static_cast<int>(kMigrations.size());
}

void migrate(SQLite::Database& database) {
  for (int version = database.execAndGet("PRAGMA user_version").getInt();
       version < schema_version(); ++version) {
    SQLite::Transaction transaction(database);
    const Migration& next = kMigrations[static_cast<std::size_t>(version)];
    database.exec(next.sql);
    if (next.move != nullptr) next.move(database);
    database.exec("PRAGMA application_id = " + std::to_string(kApplicationId));
    database.exec("PRAGMA user_version = " + std::to_string(version + 1));
    transaction.commit();
  }
}

}  // namespace heron
