#include "core/csv_table.h"

#include <algorithm>
#include <utility>

#include "core/error.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

char separator_of(std::string_view line) {
  for (const char c : {';', '\t'}) {
    if (line.find(c) != std::string_view::npos) return c;
  }
  return ',';
}

std::vector<std::string> cells_of(std::string_view line) {
  const char separator = separator_of(line);
  std::vector<std::string> cells;
  std::string cell;
  bool is_quoted = false;
  for (const char c : line) {
    if (c == '"')
      is_quoted = !is_quoted;
    else if (c == separator && !is_quoted)
      cells.push_back(normalised_typing(std::exchange(cell, {})));
    else
      cell += c;
  }
  cells.push_back(normalised_typing(cell));
  return cells;
}

void take_comment(CsvTable& table, std::string_view line) {
  const std::string text = normalised_typing(line.substr(1));
  const std::size_t mark = text.find_first_of(":=");
  if (mark == std::string::npos) return;
  table.conditions[lower_case(normalised_typing(text.substr(0, mark)))] =
      normalised_typing(text.substr(mark + 1));
}

}  // namespace

std::optional<std::size_t> CsvTable::column(std::string_view head) const {
  const auto found = std::find(heads.begin(), heads.end(), head);
  return found == heads.end() ? std::nullopt
                              : std::optional(static_cast<std::size_t>(found - heads.begin()));
}

std::string CsvTable::cell(const Row& row, std::optional<std::size_t> column) {
  return column && *column < row.cells.size() ? row.cells[*column] : std::string();
}

CsvTable parse_csv(std::string_view text, const std::string& name) {
  CsvTable table;
  table.name = name;
  if (text.starts_with("\xEF\xBB\xBF")) text.remove_prefix(3);
  if (text.find('\0') != std::string_view::npos)
    throw InputError(name, "", "this is not a text file", "Choose a CSV file");
  std::size_t number = 0;
  bool is_first = true;
  while (!text.empty()) {
    const std::size_t end = text.find_first_of("\r\n");
    const std::string_view line = text.substr(0, end);
    std::size_t used = end == std::string_view::npos ? text.size() : end + 1;
    if (end != std::string_view::npos && text[end] == '\r' && used < text.size() &&
        text[used] == '\n')
      ++used;
    text.remove_prefix(used);
    ++number;
    if (normalised_typing(line).empty()) continue;
    if (line.front() == '#' || line.front() == '!') {
      take_comment(table, line);
      continue;
    }
    CsvTable::Row row{number, cells_of(line)};
    // Decimal commas between comma separators cannot be told from them.
    if (separator_of(line) == ',' && !table.heads.empty() &&
        row.cells.size() > table.heads.size() &&
        std::any_of(row.cells.begin() + static_cast<std::ptrdiff_t>(table.heads.size()),
                    row.cells.end(), [](const std::string& c) { return !c.empty(); }))
      throw InputError(name, "line " + std::to_string(number),
                       "it has " + std::to_string(row.cells.size()) + " columns, the head names " +
                           std::to_string(table.heads.size()) + " (decimal commas?)",
                       "Write decimal points, or separate the columns with semicolons");
    // Heads begin with a word; a file may go without.
    if (is_first && !parse_number(row.cells.front())) {
      for (const std::string& cell : row.cells) table.heads.push_back(lower_case(cell));
    } else {
      table.rows.push_back(std::move(row));
    }
    is_first = false;
  }
  if (table.rows.empty()) throw InputError(name, "", "it has no rows", "Export it again");
  return table;
}

}  // namespace heron
