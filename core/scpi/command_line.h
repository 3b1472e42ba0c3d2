#pragma once

#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace heron {

/// One program message unit: "SOUR:FREQ 14.2E6" is header and arguments; a query ends in '?'.
struct ScpiCommand {
  std::string header;  ///< in capitals, without the '?'
  bool is_query = false;
  std::vector<std::string> arguments;
};

/// Units of a line, parted by ';'. Empty units are left out.
std::vector<ScpiCommand> parse_commands(std::string_view line);

/// "FREQ:CENT {hz}" with its placeholders filled in; numbers without loss and with a point.
/// InputError naming `subject` for a placeholder without a value.
std::string filled(std::string_view pattern, const std::map<std::string, double>& values,
                   const std::string& subject);
/// Names between braces.
std::vector<std::string> placeholders(std::string_view pattern);

}  // namespace heron
