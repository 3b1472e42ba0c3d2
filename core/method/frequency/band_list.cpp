#include "core/method/frequency/band_list.h"

#include <sstream>

#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

/// A line each, or between semicolons.
json parse_bands_hz(const std::string& text) {
  json all = json::array();
  std::string one;
  std::istringstream lines(text);
  QuantityOptions options;
  options.default_unit = "MHz";
  while (std::getline(lines, one)) {
    std::istringstream parts(one);
    for (std::string part; std::getline(parts, part, ';');) {
      const std::string typed = normalised_typing(part);
      if (!typed.empty()) all.push_back(parse_quantity(typed, Quantity::frequency, options).value);
    }
  }
  return all;
}

std::string written_bands(const json& kept) {
  std::string text;
  for (const json& hz : kept) text += frequency_text(hz.get<double>()) + "\n";
  return text;
}

std::string counted_bands(const json& kept) {
  return std::to_string(kept.size()) + (kept.size() == 1 ? " band" : " bands");
}

}  // namespace

SettingField band_list_field() {
  return {.kind = SettingField::Kind::text,
          .key = kBandList,
          .head = "Bands",
          .hint = "Frequencies at which the error is told in Hz, a line each",
          .text = {.parse = parse_bands_hz, .written = written_bands, .understood = counted_bands}};
}

std::vector<double> bands_from(const json& settings) {
  std::vector<double> all;
  const auto found = settings.find(kBandList);
  if (found == settings.end() || !found->is_array()) return all;
  for (const json& hz : *found)
    if (hz.is_number() && hz.get<double>() > 0.0) all.push_back(hz.get<double>());
  return all;
}

}  // namespace heron
