#pragma once

#include <nlohmann/json_fwd.hpp>
#include <string>
#include <vector>

#include "core/method/evidence.h"

namespace SQLite {
class Database;
}

namespace heron {

/// What versions before 7 kept of a step, as evidence. The first throws InputError or a json
/// exception if the record is damaged.
std::vector<Reading> older_products(const nlohmann::json& list);
Reading older_output(const std::string& typed, double dbm, double u_db);
std::vector<Condition> older_sweep(double from_hz, double to_hz);
Condition older_attenuation(double db, const std::string& typed);

/// Moves it out of the columns of a shack of version 6. What is damaged stays, and is told.
void move_older_steps(SQLite::Database& database);

}  // namespace heron
