#pragma once

#include <cmath>
#include <fmt/format.h>
#include <optional>
#include <string>

#include "core/csv_table.h"
#include "core/error.h"
#include "core/quantity/typed_number.h"

namespace heron {

[[noreturn]] inline void refuse_cell(const CsvTable& table, const CsvTable::Row& row,
                                     const std::string& head, const std::string& why,
                                     const std::string& advice = "Correct it, or leave it empty") {
  throw InputError(table.name, fmt::format("line {}, {}", row.line, head), why, advice);
}

/// Reads a cell as something; the message names line and column.
template <class Read>
auto read_cell(const CsvTable& table, const CsvTable::Row& row, const std::string& head,
               const Read& read) {
  try {
    return read();
  } catch (const InputError& error) {
    refuse_cell(table, row, head, error.reason, error.advice);
  }
}

/// A plain number; nullopt of an empty cell.
inline std::optional<double> number_cell(const CsvTable& table, const CsvTable::Row& row,
                                         const std::string& head) {
  const std::string cell = CsvTable::cell(row, table.column(head));
  if (cell.empty()) return std::nullopt;
  const auto value = parse_number(cell);
  if (!value || !std::isfinite(*value))
    refuse_cell(table, row, head, "\u201c" + cell + "\u201d is no number");
  return value;
}

}  // namespace heron
