#include "core/method/purity/purity_json.h"

#include <nlohmann/json.hpp>

#include "core/method/result_json.h"

namespace heron {

using nlohmann::json;

json to_json(const PuritySource& s) {
  json readings = json::array();
  for (const PurityReading& r : s.readings) {
    readings.push_back({{"frequency_hz", r.frequency_hz},
                        {"level_dbm", r.level_dbm},
                        {"u_db", finite_or_null(r.u_db)},
                        {"bound", r.is_bound},
                        {"floor_dbm", finite_or_null(r.floor_dbm)},
                        {"wide", r.is_wide},
                        {"doubt", r.doubt},
                        {"typed", r.typed}});
  }
  json seen = json::array();
  for (const SeenRange& range : s.seen)
    seen.push_back({range.from_hz, range.to_hz, range.level_dbm});
  return {{"format", "even-heron-purity-source"},
          {"version", 1},
          {"name", s.name},
          {"from_hz", s.from_hz},
          {"to_hz", s.to_hz},
          {"resolution_hz", s.resolution_hz},
          {"duration_s", s.duration_s},
          {"absolute", s.is_absolute},
          {"readings", readings},
          {"seen", seen},
          {"spectrum", s.spectrum.y.empty() ? json(nullptr) : curve_to_json(s.spectrum)},
          {"parts", to_json(s.parts)},
          {"remarks", remarks_to_json(s.remarks)}};
}

PuritySource purity_source_from_json(const json& r) {
  try {
    PuritySource s;
    s.name = r.at("name");
    s.from_hz = r.at("from_hz");
    s.to_hz = r.at("to_hz");
    s.resolution_hz = r.at("resolution_hz");
    s.duration_s = r.at("duration_s");
    s.is_absolute = r.at("absolute");
    for (const json& line : r.at("readings")) {
      PurityReading reading;
      reading.frequency_hz = line.at("frequency_hz");
      reading.level_dbm = line.at("level_dbm");
      reading.u_db = number_from(line, "u_db").value_or(0.0);
      reading.is_bound = line.at("bound");
      reading.floor_dbm = number_from(line, "floor_dbm").value_or(reading.floor_dbm);
      reading.is_wide = line.value("wide", false);
      reading.doubt = line.at("doubt");
      reading.typed = line.at("typed");
      s.readings.push_back(std::move(reading));
    }
    for (const json& range : r.value("seen", json::array()))
      s.seen.push_back({range.at(0), range.at(1), range.at(2)});
    if (!r.at("spectrum").is_null()) s.spectrum = curve_from_json(r.at("spectrum"));
    s.parts = keyed_parts_of(r);
    s.remarks = remarks_from_json(r.at("remarks"));
    return s;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

}  // namespace heron
