#include "core/chain/bench_json.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/chain/chain_json.h"
#include "core/json_fields.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kBenchFormat = "even-heron-bench";

std::vector<PastCalibration> past_from_json(const JsonFields& fields) {
  std::vector<PastCalibration> past;
  const json* list = fields.find("past_calibrations");
  if (list == nullptr) return past;
  if (!list->is_array()) fields.refuse("past_calibrations", "it is not a list", "Omit it");
  for (const json& record : *list) {
    const JsonFields entry(record, fields.subject(),
                           fmt::format("{}, past calibration {}", fields.place(), past.size() + 1));
    PastCalibration c;
    c.date = entry.text("date", "");
    c.u_db = entry.number("u_db").value_or(0.0);
    c.gain_db = entry.number("gain_db");
    if (!months_between(c.date, c.date))
      entry.refuse("date", "it is not a date", "Write it like 2026-03-14");
    past.push_back(c);
  }
  return past;
}

}  // namespace

json to_json(const BenchItem& item) {
  json out = to_json(item.part);
  out["sort"] = item.sort;
  out.erase("bench_id");
  const auto text = [&](const char* key, const std::string& value) {
    if (!value.empty()) out[key] = value;
  };
  text("serial", item.serial);
  text("note", item.note);
  text("curve_name", item.curve_name);
  text("level_means", item.level_means);
  text("resolution", item.resolution);
  if (item.timebase_ppm) out["timebase_ppm"] = *item.timebase_ppm;
  if (item.gate_s) out["gate_s"] = *item.gate_s;
  if (item.current_limit_a) out["current_limit_a"] = *item.current_limit_a;
  json past = json::array();
  for (const PastCalibration& c : item.past) {
    json entry = {{"date", c.date}, {"u_db", c.u_db}};
    if (c.gain_db) entry["gain_db"] = *c.gain_db;
    past.push_back(entry);
  }
  if (!past.empty()) out["past_calibrations"] = past;
  if (!item.typed.empty()) out["typed"] = item.typed;
  return out;
}

BenchItem bench_item_from_json(const json& record, const std::string& subject,
                               const std::string& place) {
  BenchItem item;
  const JsonFields fields(record, subject, place);
  item.sort = fields.text("sort", "");
  const BenchSort* sort = find_bench_sort(item.sort);
  if (sort == nullptr)
    fields.refuse("sort", "\u201c" + item.sort + "\u201d is not known",
                  "Write attenuator, cable, sampler or another sort of the list");
  json part = record;
  part["kind"] = sort->kind;
  // The bench may hold what no hook-up could use yet: a pad whose loss nobody has measured.
  if (!part.contains("gain_db") && !part.contains("network") && !part.contains("touchstone"))
    part["gain_db"] = 0.0;
  if (fields.find("max_input_w") == nullptr) part.erase("time_constant_s");
  item.part = part_from_json(part, subject, place, [&](const std::string& file) -> std::string {
    fields.refuse("touchstone", "\u201c" + file + "\u201d cannot be read from here",
                  "Omit it and drop the file on the part");
  });
  item.part.time_constant_s = fields.number("time_constant_s");
  item.part.bench_id.clear();
  item.serial = fields.text("serial", "");
  item.note = fields.text("note", "");
  item.curve_name = fields.text("curve_name", "");
  item.level_means = fields.text("level_means", "");
  item.resolution = fields.text("resolution", "");
  item.timebase_ppm = fields.number("timebase_ppm");
  item.gate_s = fields.number("gate_s");
  item.current_limit_a = fields.number("current_limit_a");
  item.past = past_from_json(fields);
  if (const json* typed = fields.find("typed")) {
    if (!typed->is_object()) fields.refuse("typed", "it is not an object", "Omit it");
    for (const auto& [key, value] : typed->items()) {
      if (value.is_string()) item.typed[key] = value.get<std::string>();
    }
  }
  check_item(item);
  return item;
}

json bench_to_json(const std::vector<BenchItem>& items) {
  json list = json::array();
  for (const BenchItem& item : items) list.push_back(to_json(item));
  return {{"format", kBenchFormat}, {"version", 1}, {"items", list}};
}

std::vector<BenchItem> bench_from_text(const std::string& text, const std::string& file_name) {
  const json root = parse_json(text, file_name, "Export the bench again where it came from");
  const JsonFields fields(root, file_name, "");
  fields.require_format(kBenchFormat, "a bench file");
  const json* list = fields.find("items");
  if (list == nullptr || !list->is_array())
    fields.refuse("items", "there is no list of items", "Export the bench again");
  std::vector<BenchItem> items;
  for (const json& record : *list)
    items.push_back(
        bench_item_from_json(record, file_name, fmt::format("item {}", items.size() + 1)));
  return items;
}

}  // namespace heron
