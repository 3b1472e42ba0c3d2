#include "store/outside.h"

#include "core/method/result_json.h"
#include "store/rows.h"

namespace heron {

std::vector<OutsideFigure> outside_figures(const Shack& shack, Id device) {
  std::vector<OutsideFigure> all;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(db,
                           "SELECT id, characteristic, figure_json, conditions, source, at FROM "
                           "outside_figure WHERE device_id = ? AND removed_at IS NULL ORDER BY at, "
                           "id");
    rows.bind(1, static_cast<int64_t>(device));
    while (rows.executeStep()) {
      std::string damage;
      auto figure = read_or_damage(damage, "a figure from elsewhere", [&] {
        return figure_from_json(parse_stored(rows.getColumn(2).getString(), "a figure"));
      });
      if (!figure) continue;
      all.push_back({rows.getColumn(0).getInt64(), device, rows.getColumn(1).getString(),
                     std::move(*figure), rows.getColumn(3).getString(),
                     rows.getColumn(4).getString(), rows.getColumn(5).getString()});
    }
  });
  return all;
}

Id add_outside_figure(Shack& shack, const OutsideFigure& f) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(db,
                             "INSERT INTO outside_figure(device_id, characteristic, figure_json, "
                             "conditions, source, at) VALUES (?, ?, ?, ?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(f.device_id));
    insert.bind(2, f.characteristic);
    insert.bind(3, to_json(f.figure).dump());
    insert.bind(4, f.conditions);
    insert.bind(5, f.source);
    insert.bind(6, f.at);
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_outside_figure_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "outside_figure", id, removed);
}

}  // namespace heron
