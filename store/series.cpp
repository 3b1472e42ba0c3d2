#include "store/series.h"

#include "core/method/result_json.h"
#include "store/rows.h"

namespace heron {
namespace {

void insert_samples(SQLite::Database& db, Id series, const std::vector<Series::Sample>& samples) {
  SQLite::Statement last(db,
                         "SELECT COALESCE(MAX(number), 0) FROM series_sample WHERE series_id = ?");
  last.bind(1, static_cast<int64_t>(series));
  last.executeStep();
  int64_t number = last.getColumn(0).getInt64();
  SQLite::Statement insert(
      db, "INSERT INTO series_sample(series_id, number, seconds, value) VALUES (?1, ?2, ?3, ?4)");
  insert.bind(1, static_cast<int64_t>(series));
  for (const Series::Sample& sample : samples) {
    insert.bind(2, ++number);
    insert.bind(3, sample.seconds);
    insert.bind(4, sample.value);
    insert.exec();
    insert.reset();
  }
}

/// What was added since it was read last.
SeriesPtr with_samples(const Shack& shack, Series head) {
  SeriesPtr known = shack.series().find(head.id);
  const std::size_t count = known != nullptr ? known->samples.size() : 0;
  std::vector<Series::Sample> more;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(
        db,
        "SELECT seconds, value FROM series_sample WHERE series_id = ? AND number "
        "> ? ORDER BY number");
    rows.bind(1, static_cast<int64_t>(head.id));
    rows.bind(2, static_cast<int64_t>(count));
    while (rows.executeStep())
      more.push_back({rows.getColumn(0).getDouble(), rows.getColumn(1).getDouble()});
  });
  if (known != nullptr && more.empty()) return known;
  if (known != nullptr) head.samples = known->samples;
  head.samples.insert(head.samples.end(), more.begin(), more.end());
  auto read = std::make_shared<const Series>(std::move(head));
  shack.series().keep(read);
  return read;
}

}  // namespace

Id add_series(Shack& shack, Id step, const Series& series) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO series(step_id, quantity, unit, instrument, started_at, remarks) VALUES (?, "
        "?, ?, ?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(step));
    insert.bind(2, series.quantity);
    insert.bind(3, series.unit);
    insert.bind(4, series.instrument);
    insert.bind(5, series.started_at.empty() ? utc_now() : series.started_at);
    insert.bind(6, remarks_to_json(series.remarks).dump());
    insert.exec();
    id = db.getLastInsertRowid();
    insert_samples(db, id, series.samples);
  });
  return id;
}

void append_samples(Shack& shack, Id series, const std::vector<Series::Sample>& samples) {
  shack.write([&](SQLite::Database& db) { insert_samples(db, series, samples); });
}

bool drop_samples(Shack& shack, Id series, std::size_t most) {
  bool is_any_left = false;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement drop(
        db,
        "DELETE FROM series_sample WHERE series_id = ?1 AND number > (SELECT COALESCE(MAX(number), "
        "0) FROM series_sample WHERE series_id = ?1) - ?2");
    drop.bind(1, static_cast<int64_t>(series));
    drop.bind(2, static_cast<int64_t>(most));
    is_any_left = drop.exec() == static_cast<int>(most);
  });
  return is_any_left;
}

std::vector<SeriesPtr> series_of_step(const Shack& shack, Id step) {
  auto heads = rows_of(
      shack,
      "SELECT id, quantity, unit, instrument, started_at, remarks FROM series WHERE step_id = ? "
      "AND removed_at IS NULL ORDER BY id",
      step, [](SQLite::Statement& row) {
        Series s;
        s.id = row.getColumn(0).getInt64();
        s.quantity = row.getColumn(1).getString();
        s.unit = row.getColumn(2).getString();
        s.instrument = row.getColumn(3).getString();
        s.started_at = row.getColumn(4).getString();
        s.remarks = remarks_from_json(parse_stored(row.getColumn(5).getString(), "a log"));
        return s;
      });
  std::vector<SeriesPtr> all;
  for (Series& head : heads) all.push_back(with_samples(shack, std::move(head)));
  return all;
}

void set_series_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "series", id, removed);
}

}  // namespace heron
