#include "core/method/measure/measured_part.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/signal/capture_range.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kSameLevelDb = 0.3;
constexpr double kSlowDriftDb = 0.3;

std::string from_to(const TimeSpan& span) {
  return fmt::format("{} to {} s", part_seconds(span.start_s), part_seconds(span.end_s()));
}

/// The stretch that touches the chosen one at its start or end; nullptr if there is none.
const KeyedStretch* neighbour(const KeyedParts& p, bool before) {
  const std::size_t at = *p.chosen_stretch;
  if (before ? at == 0 : at + 1 >= p.keyed.size()) return nullptr;
  const KeyedStretch& other = p.keyed[before ? at - 1 : at + 1];
  const KeyedStretch& own = p.keyed[at];
  const double gap = before ? own.start_s - other.end_s() : other.start_s - own.end_s();
  return gap < 0.25 ? &other : nullptr;
}

void add_step(std::vector<Remark>& remarks, const KeyedParts& p, bool before) {
  const KeyedStretch* other = neighbour(p, before);
  if (other == nullptr) return;
  const KeyedStretch& own = p.keyed[*p.chosen_stretch];
  const double step =
      before ? own.level_dbfs - other->level_dbfs : other->level_dbfs - own.level_dbfs;
  if (std::abs(step) < kSameLevelDb) return;
  const double at = before ? own.start_s : own.end_s();
  remarks.push_back(
      {"level_step", Severity::caution,
       fmt::format("The level steps by {} dB at {} s: the part {} it is measured.",
                   number_text(step, 1, true), part_seconds(at), before ? "after" : "before"),
       "Choose the other part above the plot if that one is meant"});
}

std::string list_of(const std::vector<KeyedStretch>& stretches) {
  std::string text;
  for (std::size_t i = 0; i < std::min<std::size_t>(3, stretches.size()); ++i)
    text += (i == 0 ? "" : ", ") + from_to(stretches[i]);
  if (stretches.size() > 3) text += fmt::format(" and {} more", stretches.size() - 3);
  return text;
}

void add_chosen(std::vector<Remark>& remarks, const KeyedParts& p) {
  remarks.push_back({"part_chosen", Severity::note,
                     fmt::format("Measured from {}, as chosen.", from_to(p.measured)), ""});
  // A recording that is keyed from end to end has no parts to be outside of.
  double inside = 0.0;
  for (const KeyedStretch& k : p.keyed)
    inside += std::max(
        0.0, std::min(k.end_s(), p.measured.end_s()) - std::max(k.start_s, p.measured.start_s));
  const double outside = p.measured.length_s - inside;
  if (!p.keyed.empty() && outside > std::max(0.05, 0.02 * p.measured.length_s))
    remarks.push_back({"part_not_keyed", Severity::caution,
                       fmt::format("The chosen part holds {} s that are not keyed: levels are too "
                                   "low by as much as that takes.",
                                   part_seconds(outside)),
                       "Choose a part between the edges of the keying"});
}

}  // namespace

std::string part_seconds(double s) {
  return number_text(s, std::abs(s) < 1.0 ? 3 : std::abs(s) < 1000.0 ? 2 : 1);
}

std::vector<Remark> part_remarks(const KeyedParts& p) {
  std::vector<Remark> remarks;
  if (p.is_chosen) {
    add_chosen(remarks, p);
  } else if (p.chosen_stretch) {
    add_step(remarks, p, true);
    add_step(remarks, p, false);
    if (p.keyed.size() > 1 && remarks.empty())
      remarks.push_back({"keyed_parts", Severity::note,
                         fmt::format("Keyed {} times ({}): {} is measured, the rest is left out.",
                                     p.keyed.size(), list_of(p.keyed), from_to(p.measured)),
                         ""});
    else if (p.keyed.size() == 1 && !p.is_whole() &&
             p.measured.length_s + p.settling_s < p.duration_s - 1e-9)
      remarks.push_back({"keyed_part", Severity::note,
                         fmt::format("Keyed from {}; the rest is left out.", from_to(p.measured)),
                         ""});
    if (p.settling_s > 0.0)
      remarks.push_back(
          {"settling", Severity::note,
           fmt::format("The first {} s of the key-down, {} dB off, are left out.",
                       part_seconds(p.settling_s), number_text(p.settling_db, 1, true)),
           ""});
  }
  if (std::abs(p.drift_db) > kSlowDriftDb)
    remarks.push_back(
        {"level_drift", Severity::note,
         fmt::format("The level {} by {} dB over the measured part.",
                     p.drift_db < 0.0 ? "falls" : "rises", number_text(std::abs(p.drift_db), 1)),
         ""});
  return remarks;
}

void add_clipping(std::vector<Remark>& remarks, const KeyedParts& p, std::string_view effect) {
  if (p.clipped_samples == 0) return;
  if (p.is_at_full_scale())
    remarks.push_back(
        {"clipping", Severity::fault,
         fmt::format("{} samples are at full scale: the recorder clipped, and that {}.",
                     p.clipped_samples, effect),
         "Add attenuation before the recorder and record again"});
  else
    remarks.push_back(
        {"clipping", Severity::fault,
         fmt::format("The samples pile up at {} dBFS: something before the recorder limits, and "
                     "that {}.",
                     number_text(db_from_voltage_ratio(p.peak), 1), effect),
         "Add attenuation before what limits, and record again"});
}

MeasuredPart measured_part(const CaptureOpener& open, const std::optional<TimeSpan>& chosen,
                           unsigned threads, const Progress& progress,
                           const std::stop_token& stop) {
  MeasuredPart m;
  m.recording = open()->info();
  m.parts = find_keyed_parts(open, chosen, threads, progress, stop);
  m.remarks = part_remarks(m.parts);
  m.open = m.parts.is_whole()
               ? open
               : capture_range(open, m.parts.measured.start_s, m.parts.measured.length_s);
  return m;
}

json to_json(const TimeSpan& span) {
  return {{"start_s", span.start_s}, {"length_s", span.length_s}};
}

std::optional<TimeSpan> time_span_from_json(const json& record, const char* key) {
  if (!record.contains(key)) return std::nullopt;
  const json& r = record.at(key);
  const TimeSpan span{r.at("start_s"), r.at("length_s")};
  if (!(span.start_s >= 0.0) || !(span.length_s >= 0.0) || span.end_s() > 1e9)
    refuse_damaged("a part of a recording is out of range");
  return span;
}

json to_json(const KeyedStretch& k) {
  return {{"start_s", k.start_s}, {"length_s", k.length_s}, {"level_dbfs", k.level_dbfs}};
}

json to_json(const std::optional<KeyedParts>& parts) {
  if (!parts) return nullptr;
  const KeyedParts& p = *parts;
  json keyed = json::array();
  for (const KeyedStretch& k : p.keyed) keyed.push_back(to_json(k));
  json levels = json::array();
  for (const float v : p.level_dbfs) levels.push_back(std::lround(10.0F * v));
  json out = {{"duration_s", p.duration_s},      {"cell_s", p.cell_s},
              {"tenths_dbfs", levels},           {"keyed", keyed},
              {"measured", to_json(p.measured)}, {"is_chosen", p.is_chosen},
              {"settling_s", p.settling_s},      {"settling_db", p.settling_db},
              {"drift_db", p.drift_db}};
  if (p.chosen_stretch) out["chosen_stretch"] = *p.chosen_stretch;
  return out;
}

std::optional<KeyedParts> keyed_parts_of(const json& record) {
  const auto found = record.find("parts");
  if (found == record.end() || found->is_null()) return std::nullopt;
  const json& r = *found;
  KeyedParts p;
  p.duration_s = r.at("duration_s");
  p.cell_s = r.at("cell_s");
  for (const json& v : r.at("tenths_dbfs")) p.level_dbfs.push_back(v.get<float>() / 10.0F);
  for (const json& k : r.at("keyed"))
    p.keyed.push_back({{k.at("start_s"), k.at("length_s")}, k.at("level_dbfs")});
  p.measured = time_span_from_json(r, "measured").value_or(TimeSpan{0.0, p.duration_s});
  p.is_chosen = r.at("is_chosen");
  p.settling_s = r.at("settling_s");
  p.settling_db = r.at("settling_db");
  p.drift_db = r.at("drift_db");
  if (r.contains("chosen_stretch")) {
    p.chosen_stretch = static_cast<std::size_t>(
        whole_from(r, "chosen_stretch", 0, static_cast<double>(p.keyed.size()) - 1.0));
  }
  if (!(p.duration_s > 0.0) || !(p.cell_s > 0.0) || p.level_dbfs.size() > 4096)
    refuse_damaged("the parts of a recording are out of range");
  return p;
}

}  // namespace heron
