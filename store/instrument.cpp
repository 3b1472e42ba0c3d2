#include "store/instrument.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <random>

namespace heron {

std::vector<KnownInstrument> known_instruments(const Shack& shack) {
  std::vector<KnownInstrument> out;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(
        db, "SELECT role, name, address, profile_json, identity FROM instrument ORDER BY rowid");
    while (rows.executeStep())
      out.push_back({rows.getColumn(0).getString(), rows.getColumn(1).getString(),
                     rows.getColumn(2).getString(), rows.getColumn(3).getString(),
                     rows.getColumn(4).getString()});
  });
  return out;
}

void keep_instrument(Shack& shack, const KnownInstrument& i) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO instrument (role, name, address, profile_json, identity) "
        "VALUES (?, ?, ?, ?, ?) ON CONFLICT (role) DO UPDATE SET name = excluded.name, "
        "address = excluded.address, profile_json = excluded.profile_json, "
        "identity = excluded.identity");
    int at = 0;
    for (const std::string* value : {&i.role, &i.name, &i.address, &i.profile, &i.identity})
      insert.bind(++at, *value);
    insert.exec();
  });
}

void forget_instrument(Shack& shack, const std::string& role) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement remove(db, "DELETE FROM instrument WHERE role = ?");
    remove.bind(1, role);
    remove.exec();
  });
}

std::uint64_t simulation_seed(Shack& shack) {
  std::int64_t seed = 0;
  shack.read([&](SQLite::Database& db) {
    seed = db.execAndGet("SELECT ifnull(simulation_seed, 0) FROM shack").getInt64();
  });
  if (seed != 0) return static_cast<std::uint64_t>(seed);
  if (shack.is_read_only()) return 1;
  const std::uint64_t drawn = 1 + std::random_device{}() % 1'000'000'000U;
  set_simulation_seed(shack, drawn);
  return drawn;
}

void set_simulation_seed(Shack& shack, std::uint64_t seed) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE shack SET simulation_seed = ?");
    update.bind(1, static_cast<std::int64_t>(seed));
    update.exec();
  });
}

}  // namespace heron
