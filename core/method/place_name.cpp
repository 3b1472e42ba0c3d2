#include "core/method/place_name.h"

#include <regex>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

/// nullopt where a name only looks like a frequency.
std::optional<double> frequency_in(const std::string& text) {
  try {
    return parse_quantity(text, Quantity::frequency).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

}  // namespace

std::optional<double> named_frequency_hz(const std::string& name) {
  static const std::regex named("([0-9]+(?:[.,][0-9]+)?)[ _-]*([kmg]hz)", std::regex::icase);
  constexpr std::size_t kLongestName = 200;
  const std::string start = name.substr(0, kLongestName);
  std::smatch found;
  if (!std::regex_search(start, found, named)) return std::nullopt;
  return frequency_in(found[1].str() + " " + found[2].str());
}

std::string without_frequency(const std::string& name) {
  static const std::regex named("(^|[ _-]+)(at[ _]+)?[0-9]+(?:[.,][0-9]+)?[ _-]*[kmg]hz",
                                std::regex::icase);
  constexpr std::size_t kLongestName = 200;
  const std::string rest = std::regex_replace(name.substr(0, kLongestName), named, "",
                                              std::regex_constants::format_first_only);
  return normalised_typing(rest);
}

std::string sweep_name(double from_hz, double to_hz) {
  return "Analyser " + frequency_text(from_hz) + " to " + frequency_text(to_hz);
}

std::optional<std::pair<double, double>> named_sweep_hz(const std::string& name) {
  constexpr std::size_t kLongest = 100;
  if (name.size() > kLongest) return std::nullopt;
  static const std::regex named(
      "^analyser\\s+([0-9.,]+\\s*[kmg]?hz)\\s+to\\s+([0-9.,]+\\s*[kmg]?hz)$", std::regex::icase);
  std::smatch found;
  if (!std::regex_match(name, found, named)) return std::nullopt;
  const auto from = frequency_in(found[1].str());
  const auto to = frequency_in(found[2].str());
  return from && to && *to > *from ? std::optional(std::pair{*from, *to}) : std::nullopt;
}

}  // namespace heron
