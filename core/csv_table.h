#pragma once

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// A table of text as people and instruments write it: comma, semicolon or tab; `#` or `!`
/// comments, of which `# key: value` are kept; byte order mark, CRLF and quotes are fine.
struct CsvTable {
  struct Row {
    std::size_t line = 0;  ///< in the file, from 1
    std::vector<std::string> cells;
  };
  std::string name;                               ///< of the file, for messages
  std::vector<std::string> heads;                 ///< lower case; empty if the first row is numbers
  std::vector<Row> rows;                          ///< without the heads
  std::map<std::string, std::string> conditions;  ///< from the comments, keys in lower case

  /// Column of a head; nullopt if there is none.
  std::optional<std::size_t> column(std::string_view head) const;
  /// A cell of a row; empty if the row is shorter.
  static std::string cell(const Row& row, std::optional<std::size_t> column);
};

/// Splits; judges nothing but what is no text at all (InputError: nothing in it, a binary file).
CsvTable parse_csv(std::string_view text, const std::string& name);

}  // namespace heron
