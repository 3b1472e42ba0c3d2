#include "core/method/two_tone/two_tone_json.h"

#include <nlohmann/json.hpp>

namespace heron {

using nlohmann::json;

json to_json(const TwoToneAnalysis& a) {
  json tones = json::array();
  for (const TestTone& t : a.tones) {
    tones.push_back({{"frequency_hz", t.frequency_hz},
                     {"u_frequency_hz", finite_or_null(t.u_frequency_hz)},
                     {"level_dbfs", t.level_dbfs},
                     {"u_db", finite_or_null(t.u_db)}});
  }
  json products = json::array();
  for (const TwoToneProduct& p : a.products) {
    products.push_back({{"order", p.order},
                        {"side", p.side == Side::lower ? "lower" : "upper"},
                        {"frequency_hz", p.frequency_hz},
                        {"level_dbc", p.level_dbc},
                        {"level_db_pep", p.level_db_pep},
                        {"u_db", p.u_db},
                        {"bound", p.is_bound},
                        {"floor_dbc", p.floor_dbc}});
  }
  return {{"format", "even-heron-two-tone"},
          {"version", 1},
          {"input", a.input},
          {"capture", capture_to_json(a.capture)},
          {"rbw_hz", a.rbw_hz},
          {"window", a.window},
          {"averages", a.averages},
          {"peak_dbfs", a.peak_dbfs},
          {"clipped_samples", a.clipped_samples},
          {"drift_hz", a.drift_hz},
          {"full_scale_dbm", number_or_null(a.full_scale_dbm)},
          {"linearity_u_db", a.linearity.u_db},
          {"noise_source", a.noise_source},
          {"tones", tones},
          {"one_tone_dbfs", a.one_tone_dbfs},
          {"pep_dbfs", a.pep_dbfs},
          {"products", products},
          {"carrier_hz", a.carrier_hz},
          {"carrier_dbc", number_or_null(a.carrier_dbc)},
          {"image_dbc", number_or_null(a.image_dbc)},
          {"usable_dynamic_range_db", number_or_null(a.usable_dynamic_range_db)},
          {"spectrum", curve_to_json(a.spectrum)},
          {"parts", to_json(a.parts)},
          {"remarks", remarks_to_json(a.remarks)}};
}

TwoToneAnalysis two_tone_from_json(const json& r) {
  try {
    TwoToneAnalysis a;
    a.input = r.at("input");
    a.capture = capture_from_json(r.at("capture"));
    a.rbw_hz = r.at("rbw_hz");
    a.window = r.at("window");
    a.averages = static_cast<std::size_t>(whole_from(r, "averages", 0, 1e15));
    a.peak_dbfs = r.at("peak_dbfs");
    a.clipped_samples = whole_from(r, "clipped_samples", 0, 1e15);
    a.drift_hz = r.at("drift_hz");
    a.full_scale_dbm = number_from(r, "full_scale_dbm");
    a.linearity.u_db = r.at("linearity_u_db");
    a.noise_source = r.value("noise_source", a.noise_source);
    for (const json& t : r.at("tones")) {
      a.tones.push_back({t.at("frequency_hz"), number_from(t, "u_frequency_hz").value_or(0.0),
                         t.at("level_dbfs"), number_from(t, "u_db").value_or(0.0)});
    }
    a.one_tone_dbfs = r.at("one_tone_dbfs");
    a.pep_dbfs = r.at("pep_dbfs");
    for (const json& p : r.at("products")) {
      a.products.push_back({static_cast<int>(whole_from(p, "order", 3, 99)),
                            p.at("side") == "lower" ? Side::lower : Side::upper,
                            p.at("frequency_hz"), p.at("level_dbc"), p.at("level_db_pep"),
                            p.at("u_db"), p.at("bound"), p.at("floor_dbc")});
    }
    a.carrier_hz = number_from(r, "carrier_hz").value_or(0.0);
    a.carrier_dbc = number_from(r, "carrier_dbc");
    a.image_dbc = number_from(r, "image_dbc");
    a.usable_dynamic_range_db = number_from(r, "usable_dynamic_range_db");
    a.spectrum = curve_from_json(r.at("spectrum"));
    a.parts = keyed_parts_of(r);
    a.remarks = remarks_from_json(r.at("remarks"));
    return a;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

json to_json(const TwoToneSettings& s) {
  json out = {{"carrier_hz", s.carrier_hz},
              {"highest_order", s.highest_order},
              {"linearity_u_db", s.linearity_u_db}};
  if (s.tones_hz) out["tones_hz"] = {s.tones_hz->first, s.tones_hz->second};
  if (s.part) out["part"] = to_json(*s.part);
  if (s.full_scale_dbm) out["full_scale_dbm"] = *s.full_scale_dbm;
  return out;
}

TwoToneSettings two_tone_settings_from_json(const json& r) {
  try {
    TwoToneSettings s;
    s.carrier_hz = r.value("carrier_hz", 0.0);
    if (r.contains("highest_order"))
      s.highest_order = static_cast<int>(whole_from(r, "highest_order", 3, 15));
    s.linearity_u_db = r.value("linearity_u_db", 0.0);
    s.full_scale_dbm = number_from(r, "full_scale_dbm");
    s.part = time_span_from_json(r, "part");
    if (r.contains("tones_hz"))
      s.tones_hz =
          std::pair{r.at("tones_hz").at(0).get<double>(), r.at("tones_hz").at(1).get<double>()};
    return s;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
}

}  // namespace heron
