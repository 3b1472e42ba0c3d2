#include "report/json.h"

#include "core/method/result_json.h"

namespace heron {

using nlohmann::json;

json common_json(const std::string& method, const std::vector<std::string>& inputs) {
  return {{"tool", kToolName},        {"version", HERON_VERSION}, {"method", method},
          {"input", inputs},          {"figures", json::array()}, {"remarks", json::array()},
          {"verdicts", json::array()}};
}

json report_json(const ReportDocument& d) {
  json out = common_json("report", d.inputs);
  out["title"] = d.title;
  out["made_at"] = d.made_at;
  json about = json::object();
  for (const auto& [name, value] : d.device) about[name] = value;
  out["device"] = about;
  out["owner"] = json::array();
  for (const OwnerPart& part : d.owner)
    out["owner"].push_back({{"head", part.head}, {"lines", part.lines}});
  for (const ReportFigure& f : d.figures) {
    json figure = to_json(f.figure);
    figure["test"] = f.test;
    figure["step"] = f.step;
    if (!f.verdict.empty()) figure["verdict"] = f.verdict;
    if (!f.limit.empty()) figure["limit"] = f.limit;
    if (f.is_provisional) figure["provisional"] = true;
    if (f.carrier_hz) figure["carrier_hz"] = *f.carrier_hz;
    if (!f.measured_at.empty()) figure["measured_at"] = f.measured_at;
    figure["recordings"] = f.recordings;
    // What its uncertainty is made of, standard, in its unit.
    figure["budget"] = json::array();
    for (const Contribution& c : f.figure.contributions)
      figure["budget"].push_back({{"source", c.source},
                                  {"u", finite_or_null(c.u)},
                                  {"scope", c.scope == Scope::common ? "common" : "independent"}});
    out["figures"].push_back(figure);
  }
  json tests = json::array();
  for (const ReportSection& s : d.sections) {
    json conditions = json::object();
    for (const auto& [name, value] : s.conditions) conditions[name] = value;
    json remarks = json::array();
    for (const Remark& r : s.remarks) {
      remarks.push_back(to_json(r));
      out["remarks"].push_back(to_json(r));
    }
    json entry = {{"title", s.title},         {"question", s.question},
                  {"conditions", conditions}, {"answer", s.answer},
                  {"remarks", remarks},       {"note", s.note},
                  {"signed", s.signature},    {"sentence", s.judgement_sentence}};
    if (!s.limit.empty()) {
      entry["verdict"] = {{"limit", s.limit},
                          {"verdict", verdict_id(s.judgement.verdict)},
                          {"margin", finite_or_null(s.judgement.margin)},
                          {"expanded", finite_or_null(s.judgement.expanded)}};
      out["verdicts"].push_back({{"test", s.title},
                                 {"limit", s.limit},
                                 {"verdict", verdict_id(s.judgement.verdict)},
                                 {"margin", finite_or_null(s.judgement.margin)}});
    }
    if (s.is_provisional) entry["provisional"] = true;
    if (!s.evidence.is_null()) entry["evidence"] = s.evidence;
    tests.push_back(entry);
  }
  out["tests"] = tests;
  return out;
}

}  // namespace heron
