#include "core/method/spread/bandwidth_json.h"

#include <nlohmann/json.hpp>

#include "core/method/result_json.h"

namespace heron {
namespace {

using nlohmann::json;

json width_to_json(const std::optional<WidthAtLevel>& w) {
  if (!w) return nullptr;
  json out = {
      {"lower_hz", w->lower_hz}, {"upper_hz", w->upper_hz}, {"u_hz", finite_or_null(w->u_hz)}};
  if (w->u_resolution_hz > 0.0) out["u_resolution_hz"] = w->u_resolution_hz;
  if (w->is_cut) out["is_cut"] = true;
  return out;
}

std::optional<WidthAtLevel> width_from_json(const json& r) {
  if (r.is_null()) return std::nullopt;
  return WidthAtLevel{r.at("lower_hz"), r.at("upper_hz"), number_from(r, "u_hz").value_or(0.0),
                      r.value("u_resolution_hz", 0.0), r.value("is_cut", false)};
}

json curve_or_null(const Curve& curve) {
  return curve.y.empty() ? json(nullptr) : curve_to_json(curve);
}

Curve curve_or_empty(const json& r) {
  return r.is_null() ? Curve{} : curve_from_json(r);
}

}  // namespace

json to_json(const BandwidthAnalysis& a) {
  json adjacent = json::array();
  for (const AdjacentPower& p : a.adjacent)
    adjacent.push_back({{"offset_hz", p.offset_hz},
                        {"width_hz", p.width_hz},
                        {"ratio_db", finite_or_null(p.ratio_db)},
                        {"u_db", finite_or_null(p.u_db)},
                        {"bound", p.is_bound}});
  return {{"input", a.input},
          {"capture", capture_to_json(a.capture)},
          {"hold", hold_name(a.hold)},
          {"fraction", a.fraction},
          {"rbw_hz", a.rbw_hz},
          {"averages", a.averages},
          {"clipped_samples", a.clipped_samples},
          {"occupied", width_to_json(a.occupied)},
          {"x26", width_to_json(a.x26)},
          {"power_dbfs", a.power_dbfs},
          {"floor_share", finite_or_null(a.floor_share)},
          {"channel_hz", a.channel_hz},
          {"channel_middle_hz", a.channel_middle_hz},
          {"adjacent", adjacent},
          {"average", curve_or_null(a.average)},
          {"max_hold", curve_or_null(a.max_hold)},
          {"parts", to_json(a.parts)},
          {"remarks", remarks_to_json(a.remarks)}};
}

BandwidthAnalysis bandwidth_from_json(const json& r) {
  try {
    BandwidthAnalysis a;
    a.input = r.at("input");
    a.capture = capture_from_json(r.at("capture"));
    a.hold = r.at("hold") == hold_name(Hold::max) ? Hold::max : Hold::average;
    a.fraction = r.at("fraction");
    a.rbw_hz = r.at("rbw_hz");
    a.averages = static_cast<std::size_t>(whole_from(r, "averages", 0, 1e15));
    a.clipped_samples = whole_from(r, "clipped_samples", 0, 1e15);
    a.occupied = width_from_json(r.at("occupied"));
    a.x26 = width_from_json(r.at("x26"));
    a.power_dbfs = r.at("power_dbfs");
    a.floor_share = number_from(r, "floor_share").value_or(0.0);
    a.channel_hz = r.at("channel_hz");
    // Older records: the middle of what was occupied.
    const double found = a.occupied ? (a.occupied->lower_hz + a.occupied->upper_hz) / 2.0 : 0.0;
    a.channel_middle_hz = number_from(r, "channel_middle_hz").value_or(found);
    for (const json& p : r.at("adjacent"))
      a.adjacent.push_back({p.at("offset_hz"), p.at("width_hz"),
                            number_from(p, "ratio_db").value_or(-200.0),
                            number_from(p, "u_db").value_or(0.0), p.at("bound")});
    a.average = curve_or_empty(r.at("average"));
    a.max_hold = curve_or_empty(r.at("max_hold"));
    a.parts = keyed_parts_of(r);
    a.remarks = remarks_from_json(r.at("remarks"));
    return a;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

json to_json(const NoiseRatioAnalysis& a) {
  return {{"input", a.input},
          {"capture", capture_to_json(a.capture)},
          {"rbw_hz", a.rbw_hz},
          {"averages", a.averages},
          {"clipped_samples", a.clipped_samples},
          {"ratio_db", number_or_null(a.ratio_db)},
          {"u_db", finite_or_null(a.u_db)},
          {"bound", a.is_bound},
          {"density_dbfs_hz", a.density_dbfs_hz},
          {"floor_dbfs_hz", a.floor_dbfs_hz},
          {"remarks", remarks_to_json(a.remarks)}};
}

NoiseRatioAnalysis noise_ratio_from_json(const json& r) {
  try {
    NoiseRatioAnalysis a;
    a.input = r.at("input");
    a.capture = capture_from_json(r.at("capture"));
    a.rbw_hz = r.at("rbw_hz");
    a.averages = static_cast<std::size_t>(whole_from(r, "averages", 0, 1e15));
    a.clipped_samples = whole_from(r, "clipped_samples", 0, 1e15);
    a.ratio_db = number_from(r, "ratio_db");
    a.u_db = number_from(r, "u_db").value_or(0.0);
    a.is_bound = r.at("bound");
    a.density_dbfs_hz = r.at("density_dbfs_hz");
    a.floor_dbfs_hz = r.at("floor_dbfs_hz");
    a.remarks = remarks_from_json(r.at("remarks"));
    return a;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

}  // namespace heron
