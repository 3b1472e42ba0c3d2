#include "core/method/two_tone_json.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/error.h"

namespace heron {

using nlohmann::json;

namespace {

/// A spectrum keeps hundredths of a dB as whole numbers: small, and exact to read back.
json curve_to_json(const Curve& curve) {
  json levels = json::array();
  for (const float y : curve.y)
    levels.push_back(std::lround(std::clamp(y, -1000.0F, 1000.0F) * 100.0F));
  return {{"x_start", curve.x_start}, {"x_step", curve.x_step}, {"centi_db", std::move(levels)}};
}

Curve curve_from_json(const json& record) {
  Curve curve;
  curve.id = "spectrum";
  curve.label = "Spectrum";
  curve.x_unit = "Hz";
  curve.y_unit = "dBFS";
  curve.x_start = record.at("x_start");
  curve.x_step = record.at("x_step");
  for (const json& level : record.at("centi_db"))
    curve.y.push_back(static_cast<float>(std::clamp(level.get<double>(), -1e6, 1e6) / 100.0));
  return curve;
}

json optional_number(const std::optional<double>& value) {
  return value ? finite_or_null(*value) : json(nullptr);
}

std::optional<double> optional_number(const json& record, const char* key) {
  const auto found = record.find(key);
  return found == record.end() || !found->is_number() ? std::nullopt
                                                      : std::optional(found->get<double>());
}

/// A whole number in a range; a stored 1e300 must not become undefined behaviour.
template <class Integer>
Integer whole(const json& record, const char* key, double lowest, double highest) {
  const double value = record.at(key).get<double>();
  if (!(value >= lowest && value <= highest)) {
    throw InputError("stored record", key, "the number is out of range",
                     "Analyse the recording again");
  }
  return static_cast<Integer>(value);
}

json capture_to_json(const CaptureInfo& c) {
  return {{"name", c.name},
          {"format", c.format},
          {"sample_rate_hz", c.sample_rate_hz},
          {"frames", c.frames},
          {"complex", c.is_complex},
          {"bits", c.bits},
          {"float", c.is_float},
          {"center_hz", optional_number(c.center_hz)},
          {"recorded_at", c.recorded_at},
          {"cautions", c.cautions}};
}

CaptureInfo capture_from_json(const json& r) {
  CaptureInfo c;
  c.name = r.at("name");
  c.format = r.at("format");
  c.sample_rate_hz = r.at("sample_rate_hz");
  c.frames = whole<std::int64_t>(r, "frames", 0, 1e15);
  c.is_complex = r.at("complex");
  c.bits = whole<int>(r, "bits", 1, 64);
  c.is_float = r.at("float");
  c.center_hz = optional_number(r, "center_hz");
  c.recorded_at = r.at("recorded_at");
  c.cautions = r.at("cautions").get<std::vector<std::string>>();
  return c;
}

Severity severity_from_name(const std::string& name) {
  if (name == "fault") return Severity::fault;
  return name == "caution" ? Severity::caution : Severity::note;
}

[[noreturn]] void damaged(const json::exception& error) {
  throw InputError("stored record", "", std::string("it is damaged (") + error.what() + ")",
                   "Analyse the recording again");
}

}  // namespace

json finite_or_null(double value) {
  return std::isfinite(value) ? json(value) : json(nullptr);
}

json to_json(const Figure& f) {
  json bound = nullptr;
  if (f.bound == Bound::upper) bound = "upper";
  if (f.bound == Bound::lower) bound = "lower";
  json u =
      f.bound == Bound::none && !f.contributions.empty() ? finite_or_null(f.u()) : json(nullptr);
  return {{"id", f.id},     {"label", f.label},           {"value", finite_or_null(f.value)},
          {"unit", f.unit}, {"convention", f.convention}, {"u", u},
          {"bound", bound}};
}

json to_json(const Remark& r) {
  json out = {{"code", r.code}, {"severity", severity_name(r.severity)}, {"text", r.text}};
  if (!r.action.empty()) out["action"] = r.action;
  return out;
}

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
  json remarks = json::array();
  for (const Remark& r : a.remarks) remarks.push_back(to_json(r));
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
          {"full_scale_dbm", optional_number(a.full_scale_dbm)},
          {"linearity_u_db", a.linearity_u_db},
          {"noise_source", a.noise_source},
          {"tones", tones},
          {"one_tone_dbfs", a.one_tone_dbfs},
          {"pep_dbfs", a.pep_dbfs},
          {"products", products},
          {"carrier_hz", a.carrier_hz},
          {"carrier_dbc", optional_number(a.carrier_dbc)},
          {"image_dbc", optional_number(a.image_dbc)},
          {"usable_dynamic_range_db", optional_number(a.usable_dynamic_range_db)},
          {"spectrum", curve_to_json(a.spectrum)},
          {"remarks", remarks}};
}

TwoToneAnalysis two_tone_from_json(const json& r) {
  try {
    TwoToneAnalysis a;
    a.input = r.at("input");
    a.capture = capture_from_json(r.at("capture"));
    a.rbw_hz = r.at("rbw_hz");
    a.window = r.at("window");
    a.averages = whole<std::size_t>(r, "averages", 0, 1e15);
    a.peak_dbfs = r.at("peak_dbfs");
    a.clipped_samples = whole<std::int64_t>(r, "clipped_samples", 0, 1e15);
    a.drift_hz = r.at("drift_hz");
    a.full_scale_dbm = optional_number(r, "full_scale_dbm");
    a.linearity_u_db = r.at("linearity_u_db");
    a.noise_source = r.value("noise_source", a.noise_source);
    for (const json& t : r.at("tones")) {
      a.tones.push_back({t.at("frequency_hz"), optional_number(t, "u_frequency_hz").value_or(0.0),
                         t.at("level_dbfs"), optional_number(t, "u_db").value_or(0.0)});
    }
    a.one_tone_dbfs = r.at("one_tone_dbfs");
    a.pep_dbfs = r.at("pep_dbfs");
    for (const json& p : r.at("products")) {
      a.products.push_back({whole<int>(p, "order", 3, 99),
                            p.at("side") == "lower" ? Side::lower : Side::upper,
                            p.at("frequency_hz"), p.at("level_dbc"), p.at("level_db_pep"),
                            p.at("u_db"), p.at("bound"), p.at("floor_dbc")});
    }
    a.carrier_hz = optional_number(r, "carrier_hz").value_or(0.0);
    a.carrier_dbc = optional_number(r, "carrier_dbc");
    a.image_dbc = optional_number(r, "image_dbc");
    a.usable_dynamic_range_db = optional_number(r, "usable_dynamic_range_db");
    a.spectrum = curve_from_json(r.at("spectrum"));
    for (const json& m : r.at("remarks")) {
      a.remarks.push_back({m.at("code"), severity_from_name(m.at("severity")), m.at("text"),
                           m.value("action", "")});
    }
    return a;
  } catch (const json::exception& error) {
    damaged(error);
  }
}

json to_json(const TwoToneSettings& s) {
  json out = {{"carrier_hz", s.carrier_hz},
              {"highest_order", s.highest_order},
              {"linearity_u_db", s.linearity_u_db}};
  if (s.tones_hz) out["tones_hz"] = {s.tones_hz->first, s.tones_hz->second};
  if (s.full_scale_dbm) out["full_scale_dbm"] = *s.full_scale_dbm;
  return out;
}

TwoToneSettings two_tone_settings_from_json(const json& r) {
  try {
    TwoToneSettings s;
    s.carrier_hz = r.value("carrier_hz", 0.0);
    if (r.contains("highest_order")) s.highest_order = whole<int>(r, "highest_order", 3, 15);
    s.linearity_u_db = r.value("linearity_u_db", 0.0);
    s.full_scale_dbm = optional_number(r, "full_scale_dbm");
    if (r.contains("tones_hz"))
      s.tones_hz =
          std::pair{r.at("tones_hz").at(0).get<double>(), r.at("tones_hz").at(1).get<double>()};
    return s;
  } catch (const json::exception& error) {
    damaged(error);
  }
}

json to_json(const Limit& l) {
  json out = {{"name", l.name}, {"sense", sense_name(l.sense)}, {"value", l.value},
              {"unit", l.unit}, {"convention", l.convention},   {"span", l.span}};
  if (!l.typed.empty()) out["typed"] = l.typed;
  return out;
}

Limit limit_from_json(const json& r) {
  try {
    Limit l;
    l.name = r.at("name");
    l.sense = sense_from_name(r.at("sense"));
    l.value = r.at("value");
    l.unit = r.at("unit");
    l.convention = r.at("convention");
    l.span = r.at("span");
    l.typed = r.value("typed", "");
    return l;
  } catch (const json::exception& error) {
    damaged(error);
  }
}

}  // namespace heron
