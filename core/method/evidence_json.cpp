#include "core/method/evidence_json.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "core/method/result_json.h"

namespace heron {

using nlohmann::json;

namespace {

double finite_from(const json& record, const char* key) {
  const double value = record.at(key).get<double>();
  if (!std::isfinite(value)) refuse_damaged("a reading is not a number");
  return value;
}

}  // namespace

json to_json(const Reading& r) {
  json out = {{"quantity", r.quantity}, {"value", r.value}, {"unit", r.unit}};
  // What is as usual is left out: a live run keeps many of them.
  if (r.u > 0.0) out["u"] = r.u;
  if (!r.convention.empty()) out["convention"] = r.convention;
  if (r.bound != Bound::none) out["bound"] = bound_name(r.bound);
  if (!r.typed.empty()) out["typed"] = r.typed;
  if (r.source != ReadingSource::typed) out["source"] = source_name(r.source);
  if (r.role != ReadingRole::at) out["role"] = role_name(r.role);
  if (!r.at.empty()) out["at"] = r.at;
  if (!r.instrument.empty()) out["instrument"] = r.instrument;
  if (r.is_provisional) out["provisional"] = true;
  return out;
}

Reading reading_from_json(const json& r) {
  Reading reading;
  reading.quantity = r.at("quantity");
  reading.value = finite_from(r, "value");
  reading.unit = r.at("unit");
  if (r.contains("u")) reading.u = finite_from(r, "u");
  reading.convention = r.value("convention", std::string());
  reading.bound = bound_from_name(r.value("bound", std::string()));
  reading.typed = r.value("typed", std::string());
  reading.source = source_from_name(r.value("source", std::string("typed")));
  reading.role = role_from_name(r.value("role", std::string("at")));
  reading.at = r.value("at", std::string());
  reading.instrument = r.value("instrument", std::string());
  reading.is_provisional = r.value("provisional", false);
  return reading;
}

json to_json(const Condition& c) {
  json out = {{"quantity", c.quantity}, {"value", c.value}, {"unit", c.unit}};
  if (!c.typed.empty()) out["typed"] = c.typed;
  return out;
}

Condition condition_from_json(const json& r) {
  return {r.at("quantity"), finite_from(r, "value"), r.at("unit"), r.value("typed", std::string())};
}

json to_json(const Event& e) {
  return {{"at", e.at}, {"text", e.text}};
}

Event event_from_json(const json& r) {
  return {0, r.at("at"), r.at("text")};
}

json to_json(const Series& s) {
  json samples = json::array();
  for (const Series::Sample& sample : s.samples) samples.push_back({sample.seconds, sample.value});
  json out = {{"quantity", s.quantity},
              {"unit", s.unit},
              {"instrument", s.instrument},
              {"started_at", s.started_at},
              {"samples", std::move(samples)}};
  if (!s.remarks.empty()) out["remarks"] = remarks_to_json(s.remarks);
  return out;
}

Series series_from_json(const json& r) {
  Series s;
  s.quantity = r.at("quantity");
  s.unit = r.at("unit");
  s.instrument = r.value("instrument", std::string());
  s.started_at = r.at("started_at");
  for (const json& sample : r.at("samples"))
    s.samples.push_back({sample.at(0).get<double>(), sample.at(1).get<double>()});
  if (r.contains("remarks")) s.remarks = remarks_from_json(r.at("remarks"));
  return s;
}

}  // namespace heron
