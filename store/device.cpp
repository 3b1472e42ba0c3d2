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

constexpr const char* kDeviceColumns =
    "SELECT id, name, kind, serial, note, facts_json, coalesce(retired_at, '') FROM device";

nlohmann::json to_json(const Work& w) {
  return {{"what", w.what},
          {"original", w.original},
          {"changed", w.changed},
          {"part", w.part},
          {"by", w.by}};
}

std::optional<Work> work_from_text(const std::string& text) {
  if (text.empty()) return std::nullopt;
  const nlohmann::json from = nlohmann::json::parse(text, nullptr, false);
  // What cannot be read is still told by its words.
  if (!from.is_object() || !from.contains("what")) return std::nullopt;
  const auto word = [&](const char* key) {
    const auto found = from.find(key);
    return found != from.end() && found->is_string() ? found->get<std::string>() : std::string();
  };
  return Work{word("what"), word("original"), word("changed"), word("part"), word("by")};
}

Device device_at(SQLite::Statement& row, SQLite::Database& db) {
  Device d;
  d.id = row.getColumn(0).getInt64();
  d.name = row.getColumn(1).getString();
  d.kind = row.getColumn(2).getString();
  d.serial = row.getColumn(3).getString();
  d.note = row.getColumn(4).getString();
  if (auto facts = read_or_damage(d.damage, "what it is", [&] {
        return facts_from_json(parse_stored(row.getColumn(5).getString(), "a device"));
      }))
    d.facts = std::move(*facts);
  d.retired_at = row.getColumn(6).getString();
  SQLite::Statement lines(db,
                          "SELECT characteristic, limit_json, condition FROM spec_line WHERE "
                          "device_id = ? ORDER BY id");
  lines.bind(1, static_cast<int64_t>(d.id));
  while (lines.executeStep()) {
    if (auto limit = read_or_damage(d.damage, "a line of its specification", [&] {
          return limit_from_json(parse_stored(lines.getColumn(1).getString(), "a limit"));
        }))
      d.specification.push_back(
          {lines.getColumn(0).getString(), std::move(*limit), lines.getColumn(2).getString()});
  }
  return d;
}

void insert_line(SQLite::Database& db, Id device, const SpecLine& line) {
  SQLite::Statement spec(
      db,
      "INSERT INTO spec_line(device_id, characteristic, limit_json, condition) VALUES (?, ?, ?, "
      "?)");
  spec.bind(1, static_cast<int64_t>(device));
  spec.bind(2, line.characteristic);
  spec.bind(3, heron::to_json(line.limit).dump());
  spec.bind(4, line.condition);
  spec.exec();
}

}  // namespace

nlohmann::json to_json(const DeviceFacts& f) {
  nlohmann::json all{{"works_on", f.works_on},
                     {"modes", f.modes},
                     {"supply", f.supply},
                     {"most_drive", f.most_drive},
                     {"has_high_voltage", f.has_high_voltage}};
  if (f.most_drive_dbm) all["most_drive_dbm"] = *f.most_drive_dbm;
  return all;
}

DeviceFacts facts_from_json(const nlohmann::json& from) {
  DeviceFacts f;
  f.works_on = from.value("works_on", "");
  f.modes = from.value("modes", std::vector<std::string>());
  f.supply = from.value("supply", "");
  f.most_drive = from.value("most_drive", "");
  if (from.contains("most_drive_dbm")) f.most_drive_dbm = from.at("most_drive_dbm").get<double>();
  f.has_high_voltage = from.value("has_high_voltage", false);
  return f;
}

bool is_amplifier(const Device& device) {
  return lower_case(device.kind).find("amplifier") != std::string::npos;
}

std::vector<Device> devices(const Shack& shack) {
  std::vector<Device> all;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(db,
                           std::string(kDeviceColumns) + " WHERE removed_at IS NULL ORDER BY id");
    while (rows.executeStep()) all.push_back(device_at(rows, db));
  });
  return all;
}

Device device(const Shack& shack, Id id) {
  Device found;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement row(db, std::string(kDeviceColumns) + " WHERE id = ?");
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
        db,
        "INSERT INTO device(name, kind, serial, note, created_at, facts_json) VALUES (?, ?, ?, ?, "
        "?, ?)");
    insert.bind(1, d.name);
    insert.bind(2, d.kind);
    insert.bind(3, d.serial);
    insert.bind(4, d.note);
    insert.bind(5, utc_now());
    insert.bind(6, to_json(d.facts).dump());
    insert.exec();
    id = db.getLastInsertRowid();
    for (const SpecLine& line : d.specification) insert_line(db, id, line);
  });
  return id;
}

void set_device(Shack& shack, Id id, const Device& d) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(
        db,
        "UPDATE device SET name = ?, kind = ?, serial = ?, note = ?, facts_json = ? WHERE id = ?");
    update.bind(1, d.name);
    update.bind(2, d.kind);
    update.bind(3, d.serial);
    update.bind(4, d.note);
    update.bind(5, to_json(d.facts).dump());
    update.bind(6, static_cast<int64_t>(id));
    update.exec();
  });
}

void set_specification(Shack& shack, Id device, const std::vector<SpecLine>& lines) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement remove(db, "DELETE FROM spec_line WHERE device_id = ?");
    remove.bind(1, static_cast<int64_t>(device));
    remove.exec();
    for (const SpecLine& line : lines) insert_line(db, device, line);
  });
}

void set_device_retired(Shack& shack, Id id, const std::string& at) {
  set_column(shack, "device", "retired_at", id,
             at.empty() ? std::nullopt : std::optional<std::string>(at));
}

std::string device_photo(const Shack& shack, Id id) {
  const auto found = rows_of(shack, "SELECT photo FROM device WHERE id = ?", id,
                             [](SQLite::Statement& row) { return row.getColumn(0).getString(); });
  return found.empty() ? std::string() : found.front();
}

void set_device_photo(Shack& shack, Id id, const std::string& content) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE device SET photo = ? WHERE id = ?");
    if (!content.empty()) update.bind(1, content.data(), static_cast<int>(content.size()));
    update.bind(2, static_cast<int64_t>(id));
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

std::string Work::words() const {
  std::string all = what;
  if (!original.empty() && !changed.empty())
    all += ", " + original + " to " + changed;
  else if (!original.empty() || !changed.empty())
    all += ", " + (original.empty() ? changed : "was " + original);
  if (!part.empty()) all += " (" + part + ")";
  if (!by.empty()) all += ", by " + by;
  return all;
}

std::string Work::title() const {
  if (original.empty() && changed.empty()) return what;
  if (original.empty() || changed.empty())
    return what + ": " + (original.empty() ? changed : original);
  return what + ": " + original + " \u2192 " + changed;
}

Id add_work(Shack& shack, Id device, const Work& work, const std::string& at) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db, "INSERT INTO journal(at, device_id, text, work_json) VALUES (?, ?, ?, ?)");
    insert.bind(1, at);
    insert.bind(2, static_cast<int64_t>(device));
    insert.bind(3, work.words());
    insert.bind(4, to_json(work).dump());
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
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
  return rows_of(
      shack,
      "SELECT at, text, id, coalesce(work_json, '') FROM journal WHERE device_id = ? ORDER BY at, "
      "id",
      device, [](SQLite::Statement& row) {
        return JournalEntry{row.getColumn(0).getString(), row.getColumn(1).getString(),
                            row.getColumn(2).getInt64(),
                            work_from_text(row.getColumn(3).getString())};
      });
}

}  // namespace heron
