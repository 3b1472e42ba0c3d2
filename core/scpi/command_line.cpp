#include "core/scpi/command_line.h"

#include <algorithm>
#include <cctype>
#include <fmt/format.h>

#include "core/error.h"

namespace heron {
namespace {

std::string trimmed_copy(std::string_view text) {
  const auto is_space = [](char c) { return std::isspace(static_cast<unsigned char>(c)) != 0; };
  const auto from = std::find_if_not(text.begin(), text.end(), is_space);
  const auto to = std::find_if_not(text.rbegin(), text.rend(), is_space).base();
  return from < to ? std::string(from, to) : std::string();
}

std::vector<std::string> parts_of(std::string_view text, char separator) {
  std::vector<std::string> out;
  while (true) {
    const auto at = text.find(separator);
    out.push_back(trimmed_copy(text.substr(0, at)));
    if (at == std::string_view::npos) return out;
    text.remove_prefix(at + 1);
  }
}

}  // namespace

std::vector<ScpiCommand> parse_commands(std::string_view line) {
  std::vector<ScpiCommand> out;
  for (const std::string& unit : parts_of(line, ';')) {
    if (unit.empty()) continue;
    ScpiCommand command;
    const auto space = unit.find_first_of(" \t");
    command.header = unit.substr(0, space);
    if (!command.header.empty() && command.header.front() == ':') command.header.erase(0, 1);
    if (!command.header.empty() && command.header.back() == '?') {
      command.is_query = true;
      command.header.pop_back();
    }
    std::transform(command.header.begin(), command.header.end(), command.header.begin(),
                   [](unsigned char c) { return static_cast<char>(std::toupper(c)); });
    if (space != std::string::npos)
      command.arguments = parts_of(std::string_view(unit).substr(space + 1), ',');
    out.push_back(std::move(command));
  }
  return out;
}

std::vector<std::string> placeholders(std::string_view pattern) {
  std::vector<std::string> out;
  std::size_t at = 0;
  while ((at = pattern.find('{', at)) != std::string_view::npos) {
    const auto end = pattern.find('}', at);
    if (end == std::string_view::npos) break;
    out.emplace_back(pattern.substr(at + 1, end - at - 1));
    at = end + 1;
  }
  return out;
}

std::string filled(std::string_view pattern, const std::map<std::string, double>& values,
                   const std::string& subject) {
  std::string out;
  std::size_t at = 0;
  while (at < pattern.size()) {
    const auto open = pattern.find('{', at);
    const auto close = open == std::string_view::npos ? open : pattern.find('}', open);
    if (close == std::string_view::npos) break;
    const std::string name(pattern.substr(open + 1, close - open - 1));
    const auto value = values.find(name);
    if (value == values.end())
      throw InputError(subject, std::string(pattern), "{" + name + "} has no value here",
                       "Use the placeholders that this command offers");
    out += pattern.substr(at, open - at);
    out += fmt::format("{}", value->second);
    at = close + 1;
  }
  out += pattern.substr(at);
  return out;
}

}  // namespace heron
