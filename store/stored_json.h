#pragma once

#include <SQLiteCpp/SQLiteCpp.h>
#include <nlohmann/json.hpp>
#include <string>

#include "core/error.h"
#include "store/clock.h"
#include "store/shack.h"

namespace heron {

/// JSON from a column; InputError says which record is damaged.
inline nlohmann::json parse_stored(const std::string& text, const char* what) {
  nlohmann::json value = nlohmann::json::parse(text, nullptr, false);
  if (value.is_discarded()) {
    throw InputError("shack", what, "the stored record is damaged",
                     "Restore the shack from a copy");
  }
  return value;
}

/// Sets one column of one row.
template <class Value>
void set_column(Shack& shack, const std::string& table, const std::string& column, Id id,
                const Value& value) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE " + table + " SET " + column + " = ? WHERE id = ?");
    update.bind(1, value);
    update.bind(2, static_cast<int64_t>(id));
    update.exec();
  });
}

/// Marks a row as removed, or brings it back.
inline void set_removed(Shack& shack, const std::string& table, Id id, bool removed) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE " + table + " SET removed_at = ? WHERE id = ?");
    if (removed)
      update.bind(1, utc_now());
    else
      update.bind(1);
    update.bind(2, static_cast<int64_t>(id));
    update.exec();
  });
}

}  // namespace heron
