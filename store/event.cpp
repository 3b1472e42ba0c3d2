#include "store/event.h"

#include "store/rows.h"

namespace heron {

std::vector<Event> events(const Shack& shack, Id test) {
  return rows_of(shack,
                 "SELECT id, at, text FROM event WHERE test_id = ? AND removed_at IS NULL ORDER BY "
                 "at, id",
                 test, [](SQLite::Statement& row) {
                   return Event{row.getColumn(0).getInt64(), row.getColumn(1).getString(),
                                row.getColumn(2).getString()};
                 });
}

Id add_event(Shack& shack, Id test, const Event& event) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(db, "INSERT INTO event(test_id, at, text) VALUES (?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(test));
    insert.bind(2, event.at.empty() ? utc_now() : event.at);
    insert.bind(3, event.text);
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_event_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "event", id, removed);
}

}  // namespace heron
