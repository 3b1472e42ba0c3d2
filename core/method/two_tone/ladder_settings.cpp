#include "core/method/two_tone/ladder_settings.h"

#include <algorithm>

#include "core/method/two_tone/two_tone_json.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kMostReadingU = 10.0;  // dB

std::optional<double> number_of(const json& record, const char* key) {
  const auto found = record.find(key);
  return found != record.end() && found->is_number() ? std::optional(found->get<double>())
                                                     : std::nullopt;
}

}  // namespace

LadderSettings ladder_settings_from_json(const json& settings) {
  LadderSettings ladder;
  const auto found = settings.find("ladder");
  if (found == settings.end() || !found->is_object()) return ladder;
  const json& r = *found;
  ladder.ceiling_dbm = number_of(r, "ceiling_dbm");
  if (r.contains("ceiling_typed") && r["ceiling_typed"].is_string())
    ladder.ceiling_typed = r["ceiling_typed"].get<std::string>();
  if (const auto u = number_of(r, "reading_u_db"))
    ladder.reading_u_db = std::clamp(*u, 0.0, kMostReadingU);
  if (const auto expanded = number_of(r, "linearity_db"); expanded && *expanded >= 0.0)
    ladder.linearity_db = expanded;
  return ladder;
}

json with_ladder_settings(json settings, const LadderSettings& ladder) {
  json& r = settings["ladder"];
  if (!r.is_object()) r = json::object();
  r["reading_u_db"] = ladder.reading_u_db;
  r["ceiling_dbm"] = ladder.ceiling_dbm ? json(*ladder.ceiling_dbm) : json(nullptr);
  if (ladder.ceiling_dbm) r["ceiling_typed"] = ladder.ceiling_typed;
  r["linearity_db"] = ladder.linearity_db ? json(*ladder.linearity_db) : json(nullptr);
  return settings;
}

json renewed_two_tone_settings(json settings) {
  if (!settings.is_object()) return settings;
  const auto u_db = number_of(settings, "linearity_u_db");
  json& ladder = settings["ladder"];
  if (!ladder.is_object()) ladder = json::object();
  if (u_db && *u_db > 0.0 && !ladder.contains("linearity_db")) {
    ladder["linearity_db"] = 2.0 * *u_db;
    if (settings.contains("linearity_typed"))
      ladder["linearity_typed"] = settings["linearity_typed"];
  }
  return settings;
}

TwoToneSettings analysis_settings_of(const json& settings) {
  TwoToneSettings s = two_tone_settings_from_json(settings);
  const auto stated = ladder_settings_from_json(settings).linearity_db;
  s.linearity_u_db = stated.value_or(0.0) / 2.0;
  return s;
}

}  // namespace heron
