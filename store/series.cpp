#include "store/series.h"

#include "store/rows.h"

namespace heron {
namespace {

void insert_samples(SQLite::Database& db, Id series, const std::vector<Series::Sample>& samples) {
  SQLite::Statement insert(
      db,
      "INSERT INTO series_sample(series_id, number, seconds, value) VALUES (?1, (SELECT "
      "COALESCE(MAX(number), 0) + 1 FROM series_sample WHERE series_id = ?1), ?2, ?3)");
  for (const Series::Sample& sample : samples) {
    insert.bind(1, static_cast<int64_t>(series));
    insert.bind(2, sample.seconds);
    insert.bind(3, sample.value);
    insert.exec();
    insert.reset();
  }
}

}  // namespace

Id add_series(Shack& shack, Id step, const Series& series) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO series(step_id, quantity, unit, instrument, started_at) VALUES (?, ?, ?, ?, "
        "?)");
    insert.bind(1, static_cast<int64_t>(step));
    insert.bind(2, series.quantity);
    insert.bind(3, series.unit);
    insert.bind(4, series.instrument);
    insert.bind(5, series.started_at.empty() ? utc_now() : series.started_at);
    insert.exec();
    id = db.getLastInsertRowid();
    insert_samples(db, id, series.samples);
  });
  return id;
}

void append_samples(Shack& shack, Id series, const std::vector<Series::Sample>& samples) {
  shack.write([&](SQLite::Database& db) { insert_samples(db, series, samples); });
}

std::vector<Series> series_of_step(const Shack& shack, Id step) {
  auto all = rows_of(shack,
                     "SELECT id, quantity, unit, instrument, started_at FROM series WHERE step_id "
                     "= ? AND removed_at IS NULL ORDER BY id",
                     step, [](SQLite::Statement& row) {
                       Series s;
                       s.id = row.getColumn(0).getInt64();
                       s.quantity = row.getColumn(1).getString();
                       s.unit = row.getColumn(2).getString();
                       s.instrument = row.getColumn(3).getString();
                       s.started_at = row.getColumn(4).getString();
                       return s;
                     });
  for (Series& s : all)
    s.samples = rows_of(
        shack, "SELECT seconds, value FROM series_sample WHERE series_id = ? ORDER BY number", s.id,
        [](SQLite::Statement& row) {
          return Series::Sample{row.getColumn(0).getDouble(), row.getColumn(1).getDouble()};
        });
  return all;
}

void set_series_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "series", id, removed);
}

}  // namespace heron
