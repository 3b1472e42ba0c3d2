#include "core/method/amplifier/band_markers.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>
#include <sstream>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

struct Band {
  const char* name;
  double from_mhz;
  double to_mhz;
};
constexpr std::array<Band, 17> kBands{{{"160 m", 1.81, 2.0},
                                       {"80 m", 3.5, 3.8},
                                       {"60 m", 5.3515, 5.3665},
                                       {"40 m", 7.0, 7.2},
                                       {"30 m", 10.1, 10.15},
                                       {"20 m", 14.0, 14.35},
                                       {"17 m", 18.068, 18.168},
                                       {"15 m", 21.0, 21.45},
                                       {"12 m", 24.89, 24.99},
                                       {"10 m", 28.0, 29.7},
                                       {"6 m", 50.0, 52.0},
                                       {"4 m", 70.0, 70.5},
                                       {"2 m", 144.0, 146.0},
                                       {"70 cm", 430.0, 440.0},
                                       {"23 cm", 1240.0, 1300.0},
                                       {"13 cm", 2300.0, 2450.0},
                                       {"6 cm", 5650.0, 5850.0}}};

std::string trimmed(std::string text) {
  const auto is_space = [](char c) {
    return c == ' ' || c == '\t' || c == '\r' || c == ',' || c == ':';
  };
  while (!text.empty() && is_space(text.back())) text.pop_back();
  std::size_t begin = 0;
  while (begin < text.size() && is_space(text[begin])) ++begin;
  return text.substr(begin);
}

[[noreturn]] void refuse(std::size_t line, const std::string& why) {
  throw InputError("line " + std::to_string(line), "", why,
                   "Type a name and two frequencies, such as 20 m 14.0 to 14.35 MHz");
}

BandMarker parse_line(const std::string& text, std::size_t line) {
  const std::size_t to = text.rfind(" to ");
  if (to == std::string::npos) refuse(line, "it has no \u201cto\u201d between two frequencies");
  std::string left = trimmed(text.substr(0, to));
  const std::string right = trimmed(text.substr(to + 4));
  const std::size_t unit_at = right.find_first_not_of("0123456789.,-+ ");
  const std::string unit = unit_at == std::string::npos ? "MHz" : right.substr(unit_at);
  // The first frequency is the last word, with its unit or that of the second.
  const std::size_t space = left.find_last_of(' ');
  if (space == std::string::npos) refuse(line, "it has no name");
  std::string from = left.substr(space + 1);
  std::string name = trimmed(left.substr(0, space));
  if (from.find_first_of("0123456789") == std::string::npos) {
    const std::size_t before = name.find_last_of(' ');
    if (before == std::string::npos) refuse(line, "it has no name");
    from = name.substr(before + 1) + " " + from;
    name = trimmed(name.substr(0, before));
  }
  BandMarker band;
  band.name = name.substr(0, 40);
  try {
    const bool has_unit = from.find_first_not_of("0123456789.,-+ ") != std::string::npos;
    band.from_hz = parse_quantity(has_unit ? from : from + " " + unit, Quantity::frequency).value;
    band.to_hz = parse_quantity(right, Quantity::frequency).value;
  } catch (const InputError& error) {
    refuse(line, error.reason);
  }
  if (!(band.to_hz > band.from_hz)) refuse(line, "it ends below where it begins");
  return band;
}

}  // namespace

std::vector<BandMarker> usual_bands(double from_hz, double to_hz) {
  std::vector<BandMarker> bands;
  for (const Band& b : kBands) {
    if (b.from_mhz * 1e6 <= to_hz && b.to_mhz * 1e6 >= from_hz)
      bands.push_back({b.name, b.from_mhz * 1e6, b.to_mhz * 1e6});
  }
  return bands;
}

std::string megahertz_text(double hertz) {
  std::string text = fmt::format("{:.4f}", hertz / 1e6);
  while (text.ends_with('0')) text.pop_back();
  if (text.ends_with('.')) text.pop_back();
  return text + " MHz";
}

std::vector<BandMarker> parse_bands(const std::string& text) {
  std::vector<BandMarker> bands;
  std::istringstream lines(text);
  std::string line;
  for (std::size_t number = 1; std::getline(lines, line); ++number) {
    line = trimmed(line);
    if (!line.empty()) bands.push_back(parse_line(line, number));
  }
  return bands;
}

std::string bands_text(const std::vector<BandMarker>& bands) {
  std::string text;
  for (const BandMarker& b : bands)
    text += b.name + " " + megahertz_text(b.from_hz) + " to " + megahertz_text(b.to_hz) + "\n";
  return text;
}

std::vector<BandMarker> with_typed_band(std::vector<BandMarker> bands, std::size_t row,
                                        const std::string& column, const std::string& typed) {
  const std::string text = trimmed(typed);
  if (row >= bands.size()) {
    if (text.empty()) return bands;
    const auto usual =
        std::find_if(kBands.begin(), kBands.end(), [&](const Band& b) { return text == b.name; });
    bands.push_back(usual != kBands.end()
                        ? BandMarker{usual->name, usual->from_mhz * 1e6, usual->to_mhz * 1e6}
                        : parse_line(text, 1));
    return bands;
  }
  BandMarker& band = bands[row];
  if (column == "band") {
    if (text.empty())
      bands.erase(bands.begin() + static_cast<std::ptrdiff_t>(row));
    else
      band.name = text.substr(0, 40);
    return bands;
  }
  QuantityOptions options;
  options.default_unit = "MHz";
  const double hz = parse_quantity(text, Quantity::frequency, options).value;
  if (!(hz > 0.0)) throw InputError(band.name, "", "0 is no frequency", "Type it in MHz");
  const double width = band.width_hz();
  if (column == "from") {
    band.from_hz = hz;
    if (band.to_hz <= hz) band.to_hz = hz + width;
  } else if (hz > band.from_hz) {
    band.to_hz = hz;
  } else {
    throw InputError(band.name, "",
                     "it would end below where it begins, " + megahertz_text(band.from_hz),
                     "Type its beginning first");
  }
  return bands;
}

nlohmann::json to_json(const std::vector<BandMarker>& bands) {
  nlohmann::json all = nlohmann::json::array();
  for (const BandMarker& b : bands)
    all.push_back({{"name", b.name}, {"from_hz", b.from_hz}, {"to_hz", b.to_hz}});
  return all;
}

std::vector<BandMarker> bands_from_json(const nlohmann::json& bands) {
  std::vector<BandMarker> all;
  for (const auto& b : bands) all.push_back({b.at("name"), b.at("from_hz"), b.at("to_hz")});
  return all;
}

}  // namespace heron
