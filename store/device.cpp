#include "store/device.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <algorithm>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/method/result_json.h"
#include "core/quantity/typed_number.h"
#include "store/clock.h"
#include "store/rows.h"

namespace heron {
namespace {

Device device_at(SQLite::Statement& row, SQLite::Database& db) {
  Device d;
  d.id = row.getColumn(0).getInt64();
  d.name = row.getColumn(1).getString();
  d.kind = row.getColumn(2).getString();
  d.serial = row.getColumn(3).getString();
  d.note = row.getColumn(4).getString();
  SQLite::Statement lines(
      db, "SELECT characteristic, limit_json FROM spec_line WHERE device_id = ? ORDER BY id");
  lines.bind(1, static_cast<int64_t>(d.id));
  while (lines.executeStep()) {
    if (auto limit = read_or_damage(d.damage, "a line of its specification", [&] {
          return limit_from_json(parse_stored(lines.getColumn(1).getString(), "a limit"));
        }))
      d.specification.push_back({lines.getColumn(0).getString(), std::move(*limit)});
  }
  return d;
}

void insert_line(SQLite::Database& db, Id device, const SpecLine& line) {
  SQLite::Statement spec(
      db, "INSERT INTO spec_line(device_id, characteristic, limit_json) VALUES (?, ?, ?)");
  spec.bind(1, static_cast<int64_t>(device));
  spec.bind(2, line.characteristic);
  spec.bind(3, to_json(line.limit).dump());
  spec.exec();
}

}  // namespace

bool is_amplifier(const Device& device) {
  return lower_case(device.kind).find("amplifier") != std::string::npos;
}

std::vector<Device> devices(const Shack& shack) {
  std::vector<Device> all;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(
        db, "SELECT id, name, kind, serial, note FROM device WHERE removed_at IS NULL ORDER BY id");
    while (rows.executeStep()) all.push_back(device_at(rows, db));
  });
  return all;
}

Device device(const Shack& shack, Id id) {
  Device found;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement row(db, "SELECT id, name, kind, serial, note FROM device WHERE id = ?");
    row.bind(1, static_cast<int64_t>(id));
    if (row.executeStep()) found = device_at(row, db);
  });
  if (found.id == 0)
    throw InputError("device", std::to_string(id), "it is not in this shack",
                     "Choose another device");
  return found;
}

Id add_device(Shack& shack, const Device& d) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db, "INSERT INTO device(name, kind, serial, note, created_at) VALUES (?, ?, ?, ?, ?)");
    insert.bind(1, d.name);
    insert.bind(2, d.kind);
    insert.bind(3, d.serial);
    insert.bind(4, d.note);
    insert.bind(5, utc_now());
    insert.exec();
    id = db.getLastInsertRowid();
    for (const SpecLine& line : d.specification) insert_line(db, id, line);
  });
  return id;
}

void set_device(Shack& shack, Id id, const Device& d) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(
        db, "UPDATE device SET name = ?, kind = ?, serial = ?, note = ? WHERE id = ?");
    update.bind(1, d.name);
    update.bind(2, d.kind);
    update.bind(3, d.serial);
    update.bind(4, d.note);
    update.bind(5, static_cast<int64_t>(id));
    update.exec();
  });
}

void set_specification(Shack& shack, Id device, const std::string& characteristic,
                       const std::vector<Limit>& limits) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement remove(db,
                             "DELETE FROM spec_line WHERE device_id = ? AND characteristic = ?");
    remove.bind(1, static_cast<int64_t>(device));
    remove.bind(2, characteristic);
    remove.exec();
    for (const Limit& limit : limits) insert_line(db, device, {characteristic, limit});
  });
}

void set_device_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "device", id, removed);
}

Id add_journal_entry(Shack& shack, Id device, const std::string& text) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(db, "INSERT INTO journal(at, device_id, text) VALUES (?, ?, ?)");
    insert.bind(1, utc_now());
    insert.bind(2, static_cast<int64_t>(device));
    insert.bind(3, text);
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void drop_journal_entry(Shack& shack, Id id) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement drop(db, "DELETE FROM journal WHERE id = ?");
    drop.bind(1, static_cast<int64_t>(id));
    drop.exec();
  });
}

std::vector<JournalEntry> journal(const Shack& shack, Id device) {
  return rows_of(shack, "SELECT at, text FROM journal WHERE device_id = ? ORDER BY id", device,
                 [](SQLite::Statement& row) {
                   return JournalEntry{row.getColumn(0).getString(), row.getColumn(1).getString()};
                 });
}

}  // namespace heron
