#pragma once

#include <string>
#include <utility>
#include <vector>

#include "core/csv_table.h"
#include "core/method/method.h"

namespace heron {

/// One row of a file as somebody would type it into the grid.
struct TypedRow {
  std::string label;
  std::vector<std::pair<const TypedField*, std::string>> cells;  ///< those that are not empty
};

/// The rows of a file by its column heads; a step is called by the column "step" or "setting", else
/// by the frequency or level in its first column. InputError: no column that the method knows, a
/// cell that cannot be read, naming line and column.
std::vector<TypedRow> typed_rows(const Method& method, const CsvTable& table);

/// The columns it knows, for messages: "frequency_hz, pin_dbm".
std::string typed_columns(const Method& method);

}  // namespace heron
