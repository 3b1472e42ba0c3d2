#include "core/method/result_json.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/json_fields.h"

namespace heron {

using nlohmann::json;

json finite_or_null(double value) {
  return std::isfinite(value) ? json(value) : json(nullptr);
}

json number_or_null(const std::optional<double>& value) {
  return value ? finite_or_null(*value) : json(nullptr);
}

void refuse_damaged(const char* why) {
  throw InputError("stored record", "", std::string("it is damaged (") + why + ")",
                   "Analyse the recording again");
}

void refuse_damaged(const std::exception& error) {
  const auto* fault = dynamic_cast<const json::exception*>(&error);
  refuse_damaged(fault != nullptr ? json_fault(*fault).c_str() : "it cannot be read");
}

std::optional<double> number_from(const json& record, const char* key) {
  const auto found = record.find(key);
  return found == record.end() || !found->is_number() ? std::nullopt
                                                      : std::optional(found->get<double>());
}

std::int64_t whole_from(const json& record, const char* key, double lowest, double highest) {
  const double value = record.at(key).get<double>();
  if (!(value >= lowest && value <= highest)) {
    throw InputError("stored record", key, "the number is out of range",
                     "Analyse the recording again");
  }
  return static_cast<std::int64_t>(value);
}

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

json capture_to_json(const CaptureInfo& c) {
  return {{"name", c.name},
          {"format", c.format},
          {"sample_rate_hz", c.sample_rate_hz},
          {"frames", c.frames},
          {"complex", c.is_complex},
          {"bits", c.bits},
          {"float", c.is_float},
          {"center_hz", number_or_null(c.center_hz)},
          {"recorded_at", c.recorded_at},
          {"cautions", c.cautions}};
}

CaptureInfo capture_from_json(const json& r) {
  CaptureInfo c;
  c.name = r.at("name");
  c.format = r.at("format");
  c.sample_rate_hz = r.at("sample_rate_hz");
  c.frames = whole_from(r, "frames", 0, 1e15);
  c.is_complex = r.at("complex");
  c.bits = static_cast<int>(whole_from(r, "bits", 1, 64));
  c.is_float = r.at("float");
  c.center_hz = number_from(r, "center_hz");
  c.recorded_at = r.at("recorded_at");
  c.cautions = r.at("cautions").get<std::vector<std::string>>();
  return c;
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

Figure figure_from_json(const json& from) {
  Figure f;
  f.id = from.at("id");
  f.label = from.at("label");
  f.value = from.at("value");
  f.unit = from.at("unit");
  f.convention = from.at("convention");
  if (from.at("u").is_number()) f.contributions = {{"all", from.at("u"), Scope::independent}};
  if (from.at("bound") == "upper") f.bound = Bound::upper;
  if (from.at("bound") == "lower") f.bound = Bound::lower;
  return f;
}

json to_json(const Remark& r) {
  json out = {{"code", r.code}, {"severity", severity_name(r.severity)}, {"text", r.text}};
  if (!r.action.empty()) out["action"] = r.action;
  return out;
}

Remark remark_from_json(const json& r) {
  const std::string severity = r.at("severity");
  return {r.at("code"),
          severity == "fault"     ? Severity::fault
          : severity == "caution" ? Severity::caution
                                  : Severity::note,
          r.at("text"), r.value("action", "")};
}

json remarks_to_json(const std::vector<Remark>& remarks) {
  json out = json::array();
  for (const Remark& r : remarks) out.push_back(to_json(r));
  return out;
}

std::vector<Remark> remarks_from_json(const json& list) {
  std::vector<Remark> out;
  for (const json& r : list) out.push_back(remark_from_json(r));
  return out;
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
    refuse_damaged(error);
  }
}

}  // namespace heron
