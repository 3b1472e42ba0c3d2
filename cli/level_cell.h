#pragma once

#include <optional>
#include <string>

#include "core/csv_table.h"

namespace heron {

/// A level in dBm, PD in 50 ohm, from a column and the one that says its unit: dBm, uV_pd or
/// uV_emf, dBm where that is empty. nullopt of an empty cell; InputError naming line and column.
std::optional<double> level_cell(const CsvTable& table, const CsvTable::Row& row,
                                 const std::string& head, const std::string& unit_head);

}  // namespace heron
