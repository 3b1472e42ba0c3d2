#include "store/hookup.h"

#include "core/chain/chain_json.h"
#include "store/rows.h"

namespace heron {
namespace {

constexpr const char* kVersionColumns =
    "SELECT v.id, v.hookup_id, h.name, v.number, v.chain_json, v.made_at FROM hookup_version v "
    "JOIN hookup h ON h.id = v.hookup_id ";

HookupVersion version_at(const Shack& shack, SQLite::Statement& row) {
  HookupVersion v;
  v.id = row.getColumn(0).getInt64();
  v.hookup_id = row.getColumn(1).getInt64();
  v.name = row.getColumn(2).getString();
  v.number = row.getColumn(3).getInt();
  v.chain = shack.chains().read(row.getColumn(4).getString());
  v.made_at = row.getColumn(5).getString();
  return v;
}

Id insert_version(SQLite::Database& db, Id hookup, const Chain& chain) {
  SQLite::Statement insert(
      db,
      "INSERT INTO hookup_version(hookup_id, number, chain_json, made_at) VALUES (?1, (SELECT "
      "COALESCE(MAX(number), 0) + 1 FROM hookup_version WHERE hookup_id = ?1), ?2, ?3)");
  insert.bind(1, static_cast<int64_t>(hookup));
  insert.bind(2, to_json(chain).dump());
  insert.bind(3, utc_now());
  insert.exec();
  return db.getLastInsertRowid();
}

HookupVersion one_version(const Shack& shack, const std::string& where, Id id) {
  return row_of(shack, kVersionColumns + where, id, "hook-up",
                [&](SQLite::Statement& row) { return version_at(shack, row); });
}

Vouched vouched_at(SQLite::Statement& row) {
  return {row.getColumn(0).getString(), row.getColumn(1).getString(), row.getColumn(2).getString(),
          row.getColumn(3).getDouble(), row.getColumn(4).getInt64()};
}

}  // namespace

std::vector<Hookup> hookups(const Shack& shack) {
  return rows_of(shack, "SELECT id, name FROM hookup WHERE removed_at IS NULL ORDER BY id", {},
                 [](SQLite::Statement& row) {
                   return Hookup{row.getColumn(0).getInt64(), row.getColumn(1).getString()};
                 });
}

Id add_hookup(Shack& shack, const std::string& name, const Chain& chain) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(db, "INSERT INTO hookup(name, made_at) VALUES (?, ?)");
    insert.bind(1, name);
    insert.bind(2, utc_now());
    insert.exec();
    id = db.getLastInsertRowid();
    insert_version(db, id, chain);
  });
  return id;
}

void rename_hookup(Shack& shack, Id id, const std::string& name) {
  set_column(shack, "hookup", "name", id, name);
}

void set_hookup_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "hookup", id, removed);
}

std::vector<HookupUse> hookup_uses(const Shack& shack, Id hookup) {
  return rows_of(
      shack,
      "SELECT t.id, t.evaluation_id, d.name, t.title, (SELECT COUNT(*) FROM step_capture sc JOIN "
      "step s ON s.id = sc.step_id JOIN hookup_version v ON v.id = sc.hookup_version_id WHERE "
      "s.test_id = t.id AND v.hookup_id = ?1 AND sc.removed_at IS NULL AND s.removed_at IS NULL) "
      "FROM test t JOIN evaluation e ON e.id = t.evaluation_id JOIN device d ON d.id = "
      "e.device_id WHERE t.hookup_id = ?1 AND t.removed_at IS NULL AND e.removed_at IS NULL AND "
      "d.removed_at IS NULL ORDER BY t.id",
      hookup, [](SQLite::Statement& row) {
        return HookupUse{row.getColumn(0).getInt64(), row.getColumn(1).getInt64(),
                         row.getColumn(2).getString(), row.getColumn(3).getString(),
                         row.getColumn(4).getInt()};
      });
}

HookupVersion latest_version(const Shack& shack, Id hookup) {
  return one_version(
      shack, "WHERE v.hookup_id = ? AND v.removed_at IS NULL ORDER BY v.number DESC LIMIT 1",
      hookup);
}

HookupVersion hookup_version(const Shack& shack, Id version) {
  return one_version(shack, "WHERE v.id = ?", version);
}

bool is_version_used(const Shack& shack, Id version) {
  // A removed recording counts: undo may bring it back.
  return !rows_of(shack, "SELECT 1 FROM step_capture WHERE hookup_version_id = ? LIMIT 1", version,
                  [](SQLite::Statement&) { return true; })
              .empty();
}

SavedChain save_chain(Shack& shack, Id hookup, const Chain& chain) {
  const HookupVersion now = latest_version(shack, hookup);
  SavedChain saved;
  if (!is_version_used(shack, now.id)) {
    saved.version_id = now.id;
    saved.before = now.chain;
    set_column(shack, "hookup_version", "chain_json", now.id, to_json(chain).dump());
    return saved;
  }
  saved.is_new_version = true;
  shack.write([&](SQLite::Database& db) { saved.version_id = insert_version(db, hookup, chain); });
  return saved;
}

void unsave_chain(Shack& shack, const SavedChain& saved) {
  if (saved.is_new_version)
    set_removed(shack, "hookup_version", saved.version_id, true);
  else if (saved.before)
    set_column(shack, "hookup_version", "chain_json", saved.version_id,
               to_json(*saved.before).dump());
}

Id vouch(Shack& shack, Id test, const Vouched& v) {
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db,
        "INSERT INTO vouched(test_id, hookup_version_id, pep_dbm, by_name, why, at) VALUES (?, ?, "
        "?, ?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(test));
    insert.bind(2, static_cast<int64_t>(v.version_id));
    insert.bind(3, v.pep_dbm);
    insert.bind(4, v.by);
    insert.bind(5, v.why);
    insert.bind(6, v.at.empty() ? utc_now() : v.at);
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

std::vector<Vouched> all_vouched(const Shack& shack, Id test) {
  return rows_of(shack,
                 "SELECT by_name, why, at, pep_dbm, hookup_version_id FROM vouched WHERE test_id = "
                 "? ORDER BY id",
                 test, vouched_at);
}

std::optional<HookupVersion> readable_version(const Shack& shack, Id hookup) {
  std::string damage;
  return read_or_damage(damage, "hook-up", [&] { return latest_version(shack, hookup); });
}

std::optional<Chain> hookup_draft(const Shack& shack, Id hookup) {
  std::string damage;
  const auto found = read_or_damage(damage, "draft", [&] {
    return rows_of(
        shack, "SELECT chain_json FROM hookup_draft WHERE hookup_id = ?", hookup,
        [&](SQLite::Statement& row) { return shack.chains().read(row.getColumn(0).getString()); });
  });
  return found && !found->empty() ? std::optional(found->front()) : std::nullopt;
}

void keep_hookup_draft(Shack& shack, Id hookup, const Chain& chain) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(
        db, "INSERT OR REPLACE INTO hookup_draft(hookup_id, chain_json, made_at) VALUES (?, ?, ?)");
    insert.bind(1, static_cast<int64_t>(hookup));
    insert.bind(2, to_json(chain).dump());
    insert.bind(3, utc_now());
    insert.exec();
  });
}

void drop_hookup_draft(Shack& shack, Id hookup) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement remove(db, "DELETE FROM hookup_draft WHERE hookup_id = ?");
    remove.bind(1, static_cast<int64_t>(hookup));
    remove.exec();
  });
}

}  // namespace heron
