#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace heron {

/// A band of interest on the frequency axis.
struct BandMarker {
  std::string name;
  double from_hz = 0.0;
  double to_hz = 0.0;

  double width_hz() const { return to_hz - from_hz; }
};

/// Amateur bands that a sweep touches, as widely allocated (ITU Region 1 where regions differ); the
/// user's licence and country decide.
std::vector<BandMarker> usual_bands(double from_hz, double to_hz);

/// "1296.2 MHz": bands are told in MHz however high they are.
std::string megahertz_text(double hertz);

/// A line each: "20 m 14.0 to 14.35 MHz". InputError naming the line.
std::vector<BandMarker> parse_bands(const std::string& text);
std::string bands_text(const std::vector<BandMarker>& bands);

/// After one cell of their table was typed into: an empty name takes a band away; behind the last
/// one stands a usual band's name or a whole line; who begins a band beyond its end moves it as
/// wide as it is. InputError with what works.
std::vector<BandMarker> with_typed_band(std::vector<BandMarker> bands, std::size_t row,
                                        const std::string& column, const std::string& typed);

nlohmann::json to_json(const std::vector<BandMarker>& bands);
std::vector<BandMarker> bands_from_json(const nlohmann::json& bands);

}  // namespace heron
