#include "store/bench.h"

#include <algorithm>

#include "core/chain/bench_json.h"
#include "store/rows.h"

namespace heron {
namespace {

BenchEntry entry_at(SQLite::Statement& row) {
  BenchEntry entry;
  entry.id = row.getColumn(0).getInt64();
  auto item = read_or_damage(entry.damage, "its record", [&] {
    return bench_item_from_json(parse_stored(row.getColumn(1).getString(), "a bench item"), "shack",
                                "bench item " + std::to_string(entry.id));
  });
  entry.item = item ? std::move(*item) : made_item("adapter");
  if (!item) entry.item.part.name = "Damaged record " + std::to_string(entry.id);
  // What cannot be read is in no hook-up's choice.
  entry.is_retired = !item || !row.getColumn(2).isNull();
  return entry;
}

std::ptrdiff_t group_rank(const BenchItem& item) {
  const BenchSort* sort = find_bench_sort(item.sort);
  return sort == nullptr ? 0 : sort - bench_sorts().data();
}

}  // namespace

std::string bench_name(Id id) {
  return "bench-" + std::to_string(id);
}

Part BenchEntry::part() const {
  Part part = item.part;
  part.bench_id = bench_name(id);
  return part;
}

std::vector<BenchEntry> bench(const Shack& shack) {
  auto all = rows_of(
      shack,
      "SELECT id, record_json, retired_at FROM bench_item WHERE removed_at IS NULL ORDER BY id", {},
      entry_at);
  std::stable_sort(all.begin(), all.end(), [](const BenchEntry& a, const BenchEntry& b) {
    if (a.is_retired != b.is_retired) return b.is_retired;
    return group_rank(a.item) < group_rank(b.item);
  });
  return all;
}

BenchEntry bench_entry(const Shack& shack, Id id) {
  return row_of(shack, "SELECT id, record_json, retired_at FROM bench_item WHERE id = ?", id,
                "bench item", entry_at);
}

Id add_bench_item(Shack& shack, const BenchItem& item) {
  check_item(item);
  Id id = 0;
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement insert(db, "INSERT INTO bench_item(record_json, added_at) VALUES (?, ?)");
    insert.bind(1, to_json(item).dump());
    insert.bind(2, utc_now());
    insert.exec();
    id = db.getLastInsertRowid();
  });
  return id;
}

void set_bench_item(Shack& shack, Id id, const BenchItem& item) {
  check_item(item);
  set_column(shack, "bench_item", "record_json", id, to_json(item).dump());
}

void set_bench_item_retired(Shack& shack, Id id, bool retired) {
  set_column(shack, "bench_item", "retired_at", id,
             retired ? std::optional(utc_now()) : std::nullopt);
}

void set_bench_item_removed(Shack& shack, Id id, bool removed) {
  set_removed(shack, "bench_item", id, removed);
}

}  // namespace heron
