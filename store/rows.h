#pragma once

#include <SQLiteCpp/SQLiteCpp.h>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

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

/// Adds a word to what is told to be damaged.
inline void add_damage(std::string& damage, const std::string& what) {
  damage += (damage.empty() ? "" : ", ") + what;
}

template <class T>
struct Maybe {
  using Type = std::optional<T>;
};
template <class T>
struct Maybe<std::optional<T>> {
  using Type = std::optional<T>;
};

/// Reads one part of a row, which may not be there. A damaged part counts as not there and is named
/// in `damage`, so that the rest can still be used.
template <class Read>
auto read_or_damage(std::string& damage, const std::string& what, const Read& read) ->
    typename Maybe<decltype(read())>::Type {
  try {
    return read();
  } catch (const InputError&) {
    add_damage(damage, what);
  } catch (const nlohmann::json::exception&) {
    add_damage(damage, what);
  }
  return std::nullopt;
}

/// The rows that a statement finds, each made by `read`; `of` binds its only parameter.
template <class Read>
auto rows_of(const Shack& shack, const std::string& sql, std::optional<Id> of, const Read& read) {
  std::vector<decltype(read(std::declval<SQLite::Statement&>()))> all;
  shack.read([&](SQLite::Database& db) {
    SQLite::Statement rows(db, sql);
    if (of) rows.bind(1, static_cast<int64_t>(*of));
    while (rows.executeStep()) all.push_back(read(rows));
  });
  return all;
}

/// The one row of an id; InputError naming `what` if it is not there.
template <class Read>
auto row_of(const Shack& shack, const std::string& sql, Id id, const std::string& what,
            const Read& read) {
  auto found = rows_of(shack, sql, id, read);
  if (found.empty())
    throw InputError(what, std::to_string(id), "it is not in this shack", "Choose another " + what);
  return std::move(found.front());
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

/// Sets one column of one row, or takes its value away.
template <class Value>
void set_column(Shack& shack, const std::string& table, const std::string& column, Id id,
                const std::optional<Value>& value) {
  shack.write([&](SQLite::Database& db) {
    SQLite::Statement update(db, "UPDATE " + table + " SET " + column + " = ? WHERE id = ?");
    if (value) update.bind(1, *value);
    update.bind(2, static_cast<int64_t>(id));
    update.exec();
  });
}

/// Sets a column that names another row; 0 = none.
inline void set_reference(Shack& shack, const std::string& table, const std::string& column, Id id,
                          Id other) {
  set_column(shack, table, column, id,
             other != 0 ? std::optional(static_cast<int64_t>(other)) : std::nullopt);
}

/// Marks a row as removed, or brings it back.
inline void set_removed(Shack& shack, const std::string& table, Id id, bool removed) {
  set_column(shack, table, "removed_at", id, removed ? std::optional(utc_now()) : std::nullopt);
}

}  // namespace heron
