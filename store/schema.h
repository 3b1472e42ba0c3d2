#pragma once

namespace SQLite {
class Database;
}

namespace heron {

/// "HERN": marks an SQLite file as a shack.
inline constexpr int kApplicationId = 0x4845524E;
/// Version this program writes; PRAGMA user_version of the file.
int schema_version();
/// Brings the file from its version up to schema_version(), each step in one transaction.
void migrate(SQLite::Database& database);

}  // namespace heron
