#include "core/method/typed_table.h"

#include <array>
#include <fmt/format.h>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

/// What a bare number of such a column is in.
std::string unit_of_head(std::string_view head) {
  static constexpr std::array<std::pair<std::string_view, const char*>, 7> kUnits{{{"_hz", " Hz"},
                                                                                   {"_dbm", " dBm"},
                                                                                   {"_dbc", " dB"},
                                                                                   {"_w", " W"},
                                                                                   {"_s", " s"},
                                                                                   {"v_dc", " V"},
                                                                                   {"i_dc", " A"}}};
  for (const auto& [end, unit] : kUnits)
    if (head.ends_with(end)) return unit;
  return "";
}

/// The heads that a field goes by, the usual one first.
std::vector<std::string_view> heads_of(const TypedField& field) {
  std::vector<std::string_view> heads;
  std::string_view rest = field.csv;
  while (!rest.empty()) {
    const std::size_t bar = rest.find('|');
    heads.push_back(rest.substr(0, bar));
    rest = bar == std::string_view::npos ? std::string_view() : rest.substr(bar + 1);
  }
  return heads;
}

std::string label_of(const TypedRow& row, std::size_t line) {
  if (row.cells.empty()) return fmt::format("line {}", line);
  const auto& [field, typed] = row.cells.front();
  if (field->asked == Quantity::frequency)
    return frequency_text(parse_quantity(typed, Quantity::frequency).value);
  return typed;
}

}  // namespace

std::string typed_columns(const Method& method) {
  std::string all;
  for (const TypedField& f : method.fields) {
    if (const auto heads = heads_of(f); !heads.empty())
      all += (all.empty() ? "" : ", ") + std::string(heads.front());
  }
  return all;
}

std::vector<TypedRow> typed_rows(const Method& method, const CsvTable& table) {
  struct Column {
    const TypedField* field;
    std::string head;
    std::size_t at;
  };
  std::vector<Column> columns;
  for (const TypedField& f : method.fields) {
    for (const std::string_view head : heads_of(f)) {
      if (const auto at = table.column(head)) columns.push_back({&f, std::string(head), *at});
    }
  }
  if (columns.empty())
    throw InputError(table.name, "line 1", "it has no column that this test knows",
                     "Begin it with some of: " + typed_columns(method));
  auto named = table.column("step");
  if (!named) named = table.column("setting");
  std::vector<TypedRow> rows;
  for (const CsvTable::Row& line : table.rows) {
    TypedRow row;
    for (const Column& c : columns) {
      std::string cell = CsvTable::cell(line, c.at);
      if (cell.empty()) continue;
      const auto number = leading_number(normalised_typing(cell));
      if (number && number->rest.empty()) cell += unit_of_head(c.head);
      try {
        if (c.field->kind == TypedField::Kind::reading)
          read_typed(*c.field, cell);
        else
          condition_typed(*c.field, cell);
      } catch (const InputError& error) {
        throw InputError(table.name, fmt::format("line {}, {}", line.line, c.head), error.reason,
                         "Correct it, or leave it empty");
      }
      row.cells.emplace_back(c.field, std::move(cell));
    }
    row.label = CsvTable::cell(line, named);
    if (row.label.empty()) row.label = label_of(row, line.line);
    rows.push_back(std::move(row));
  }
  return rows;
}

}  // namespace heron
