#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "store/shack.h"

namespace heron {

/// What was read at each step of a test, in the order it was kept; InputError names a damaged one
/// only when it is asked for, by its quantity "damaged".
inline constexpr const char* kDamagedReading = "damaged";
std::map<Id, std::vector<Reading>> readings_of_test(const Shack& shack, Id test);

/// Within a transaction.
void insert_reading(SQLite::Database& database, Id step, const Reading& reading);
void insert_condition(SQLite::Database& database, Id step, const Condition& condition,
                      Id step_capture = 0);

/// Keeps a reading. Returns its id.
Id add_reading(Shack& shack, Id step, const Reading& reading);
void set_reading_removed(Shack& shack, Id id, bool removed);
/// Of the one that counts: the last of its quantity and role.
void set_reading_provisional(Shack& shack, Id step, const std::string& quantity, ReadingRole role,
                             bool is_provisional);
/// What somebody typed for some quantities takes the place of what was typed for them before, in
/// one role or in all.
void replace_typed_readings(Shack& shack, Id step, const std::vector<std::string>& quantities,
                            const std::vector<Reading>& readings,
                            std::optional<ReadingRole> role = std::nullopt);

/// Conditions of the steps of a test that hold for the whole step.
std::map<Id, std::vector<Condition>> conditions_of_test(const Shack& shack, Id test);
/// Conditions of one recording.
std::vector<Condition> conditions_of_capture(const Shack& shack, Id step_capture);
/// Keeps a condition of a step, or of one recording on it; the same quantity before goes.
void set_condition(Shack& shack, Id step, const Condition& condition, Id step_capture = 0);
void remove_condition(Shack& shack, Id step, const std::string& quantity);

}  // namespace heron
