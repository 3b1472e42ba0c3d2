#include "core/method/purity/purity_settings.h"

#include <algorithm>

#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kUsualCarrierHz = 14.2e6;

}  // namespace

json to_json(const std::vector<TypedLine>& lines) {
  json all = json::array();
  for (const TypedLine& l : lines)
    all.push_back({{"typed", l.typed},
                   {"frequency_hz", l.frequency_hz},
                   {"to_hz", l.to_hz},
                   {"level", l.level},
                   {"dbc", l.is_dbc},
                   {"bound", l.is_bound}});
  return all;
}

std::vector<TypedLine> typed_lines_from_json(const json& lines) {
  std::vector<TypedLine> all;
  for (const json& l : lines)
    all.push_back({l.at("typed"), l.at("frequency_hz"), l.value("to_hz", 0.0), l.at("level"),
                   l.at("dbc"), l.at("bound")});
  return all;
}

PurityTestSettings purity_settings_from_json(const json& settings) {
  PurityTestSettings out;
  const auto found = settings.find("purity");
  if (found == settings.end()) return out;
  try {
    const json& r = *found;
    out.carrier_hz = number_from(r, "carrier_hz").value_or(0.0);
    if (r.contains("mask"))
      out.mask = r.at("mask").is_null() ? Mask{"none", "", {}}
                                        : parse_mask(r.at("mask").dump(), "the test\u2019s mask");
    out.power_dbm = number_from(r, "power_dbm");
    out.power_typed = r.value("power_typed", "");
    out.reading_u_db = std::clamp(r.value("reading_u_db", 0.5), 0.0, 10.0);
    out.lines = typed_lines_from_json(r.value("lines", json::array()));
    out.is_same_gain = r.value("same_gain", false);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  return out;
}

json with_purity_settings(json settings, const PurityTestSettings& purity) {
  json r = {{"reading_u_db", purity.reading_u_db}, {"lines", to_json(purity.lines)}};
  if (purity.is_same_gain) r["same_gain"] = true;
  if (purity.carrier_hz > 0.0) r["carrier_hz"] = purity.carrier_hz;
  if (purity.mask) r["mask"] = purity.mask->is_none() ? json(nullptr) : to_json(*purity.mask);
  if (purity.power_dbm) {
    r["power_dbm"] = *purity.power_dbm;
    r["power_typed"] = purity.power_typed;
  }
  settings["purity"] = r;
  return settings;
}

double purity_carrier_hz(const json& settings, const std::optional<Drive>& drive) {
  const double set_hz = purity_settings_from_json(settings).carrier_hz;
  if (set_hz > 0.0) return set_hz;
  return drive ? drive->frequency_hz : kUsualCarrierHz;
}

Mask purity_mask(const Evidence& evidence) {
  return purity_settings_from_json(evidence.settings)
      .mask.value_or(generic_mask(purity_carrier_hz(evidence.settings, evidence.drive)));
}

}  // namespace heron
