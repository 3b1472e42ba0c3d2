#include "core/chain/chain_json.h"

#include <algorithm>
#include <complex>
#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/json_fields.h"
#include "core/read_text.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr std::uintmax_t kLargestFileMb = 64;

/// A list of pairs of numbers.
std::vector<std::pair<double, double>> pairs(const JsonFields& fields, const char* key,
                                             const json& list) {
  std::vector<std::pair<double, double>> out;
  for (const json& item : list) {
    if (!item.is_array() || item.size() != 2 || !item[0].is_number() || !item[1].is_number())
      fields.refuse(key, fmt::format("point {} is not two numbers", out.size() + 1),
                    "Write it as [[frequency_hz, gain_db], \u2026]");
    out.emplace_back(item[0].get<double>(), item[1].get<double>());
  }
  return out;
}

/// Points of a network as written by to_json: frequency and four complex numbers.
Touchstone network_from_json(const JsonFields& fields, const json& record) {
  Touchstone network;
  const JsonFields inner(record, fields.subject(), fields.place() + ", network");
  network.reference_ohm = inner.number("reference_ohm").value_or(50.0);
  const json* points = inner.find("points");
  if (points == nullptr || !points->is_array())
    inner.refuse("points", "it is not a list", "Omit it");
  for (const json& p : *points) {
    const bool is_row =
        p.is_array() && p.size() == 9 &&
        std::all_of(p.begin(), p.end(), [](const json& v) { return v.is_number(); });
    if (!is_row ||
        (!network.points.empty() && p[0].get<double>() <= network.points.back().frequency_hz))
      fields.refuse(
          "network",
          fmt::format("point {} is not nine numbers in rising order", network.points.size() + 1),
          "Drop the Touchstone file on the part again");
    const auto value = [&](std::size_t i) {
      return std::complex<double>(p[i].get<double>(), p[i + 1].get<double>());
    };
    network.points.push_back({p[0].get<double>(), value(1), value(3), value(5), value(7)});
  }
  if (network.points.empty())
    fields.refuse("network", "it has no points", "Drop the Touchstone file on the part again");
  return network;
}

json network_to_json(const Touchstone& network) {
  json points = json::array();
  for (const TwoPort& p : network.points)
    points.push_back(
        json::array({p.frequency_hz, p.s11.real(), p.s11.imag(), p.s21.real(), p.s21.imag(),
                     p.s12.real(), p.s12.imag(), p.s22.real(), p.s22.imag()}));
  return {{"reference_ohm", network.reference_ohm}, {"points", points}};
}

void read_gain(Part& part, const JsonFields& fields, const NetworkText& network) {
  if (fields.flag("gain_unknown", false)) {
    part.is_gain_known = false;
    return;
  }
  const json* gain = fields.find("gain_db");
  const json* points = fields.find("network");
  const std::string file = fields.text("touchstone", "");
  if (gain != nullptr && (!file.empty() || points != nullptr))
    fields.refuse("gain_db", "there is a Touchstone file too", "Keep one of the two");
  if (points != nullptr) {
    if (!points->is_object()) fields.refuse("network", "it is not an object", "Omit it");
    part.network = network_from_json(fields, *points);
    part.gain = part.network->gain("part \u201c" + part.name + "\u201d");
  } else if (!file.empty()) {
    part.network = parse_touchstone(network(file), file);
    part.gain = part.network->gain(file);
  } else if (gain != nullptr && gain->is_number()) {
    part.gain = Gain(gain->get<double>());
  } else if (gain != nullptr && gain->is_array()) {
    std::vector<GainPoint> table;
    for (const auto& [hz, db] : pairs(fields, "gain_db", *gain)) table.push_back({hz, db});
    part.gain = Gain(std::move(table), "part \u201c" + part.name + "\u201d");
  } else if (gain != nullptr) {
    fields.refuse("gain_db", "it is neither a number nor a table",
                  "Write -40.0 or [[frequency_hz, gain_db], \u2026]");
  } else if (part.kind != "instrument" && part.kind != "device" && part.kind != "adapter") {
    fields.refuse("gain_db", "it is missing", "Write the gain in dB, negative for loss");
  }
}

}  // namespace

Part part_from_json(const json& record, const std::string& subject, const std::string& place,
                    const NetworkText& network) {
  Part part;
  part.name = JsonFields(record, subject, place).text("name", place);
  const JsonFields fields(record, subject,
                          part.name == place ? place : place + " (\u201c" + part.name + "\u201d)");
  part.kind = fields.text("kind", "adapter");
  part.u_db = fields.number("u_db").value_or(0.0);
  part.vswr = fields.number("vswr");
  part.max_input_w = fields.number("max_input_w");
  part.time_constant_s = fields.number("time_constant_s");
  part.max_input_dbm = fields.number("max_input_dbm");
  part.full_scale_dbm = fields.number("full_scale_dbm");
  part.linearity_u_db = fields.number("linearity_u_db");
  part.calibration.date = fields.text("calibrated", "");
  part.calibration.interval_months = fields.number("interval_months");
  part.calibration.ageing_u_db_per_month = fields.number("ageing_u_db_per_month");
  part.bench_id = fields.text("bench_id", "");
  if (const json* window = fields.find("best_input_dbm")) {
    if (!window->is_array())
      fields.refuse("best_input_dbm", "it is not a pair", "Write [-25, -10]");
    const auto pair = pairs(fields, "best_input_dbm", json::array({*window}));
    part.best_input_dbm = pair.front();
  }
  read_gain(part, fields, network);
  check_part(part);
  return part;
}

Chain chain_from_json(const json& record, const std::string& subject, const NetworkText& network) {
  const JsonFields root(record, subject, "");
  if (root.text("format", "") != "even-heron-chain")
    root.refuse("format", "this is not a chain file",
                "It begins with \"format\": \"even-heron-chain\"");
  if (root.number("version").value_or(1.0) > 1.0)
    root.refuse("version", "a newer Even Heron wrote this file", "Update Even Heron");
  Chain chain;
  chain.name = root.text("name", "");
  chain.source = root.text("source", "");
  chain.source_u_db = root.number("source_u_db").value_or(0.0);
  if (!(chain.source_u_db >= 0.0))
    root.refuse("source_u_db", "it is below 0", "Give the standard uncertainty in dB");
  chain.is_source_in_emf = root.flag("source_in_emf", false);
  chain.is_impedance_stated = root.number("impedance_ohm").has_value();
  chain.impedance_ohm = root.number("impedance_ohm").value_or(50.0);
  chain.source_vswr = root.number("source_vswr");
  if (chain.source_vswr && !(*chain.source_vswr >= 1.0))
    root.refuse("source_vswr", "it is less than 1", "A perfect match is 1");
  const json* parts = root.find("parts");
  if (parts == nullptr || !parts->is_array() || parts->empty())
    root.refuse("parts", "it has no parts", "Add at least the instrument");
  for (const json& part : *parts)
    chain.parts.push_back(
        part_from_json(part, subject, fmt::format("part {}", chain.parts.size() + 1), network));
  return chain;
}

Chain read_chain(const std::filesystem::path& path) {
  const std::string text = read_text(path, kLargestFileMb);
  const std::string subject = path.filename().string();
  const json record = parse_json(text, subject, "Compare it with the example in the documentation");
  return chain_from_json(record, subject, [&](const std::string& file) {
    return read_text(path.parent_path() / file, kLargestFileMb);
  });
}

json to_json(const Drive& d) {
  json out = {{"pep_dbm", d.pep_dbm},
              {"two_tone", d.is_two_tone},
              {"frequency_hz", d.frequency_hz},
              {"typed", d.typed}};
  if (d.key_down_s) out["key_down_s"] = *d.key_down_s;
  if (!d.typed_frequency.empty()) out["typed_frequency"] = d.typed_frequency;
  if (!d.typed_key_down.empty()) out["typed_key_down"] = d.typed_key_down;
  return out;
}

Drive drive_from_json(const json& record, const std::string& subject, const std::string& place) {
  const JsonFields fields(record, subject, place);
  const auto level = fields.number("pep_dbm");
  const auto frequency = fields.number("frequency_hz");
  if (!level || !frequency)
    fields.refuse("", "level or frequency is missing", "Set the drive of the hook-up again");
  return {*level,
          fields.flag("two_tone", true),
          *frequency,
          fields.number("key_down_s"),
          fields.text("typed", ""),
          fields.text("typed_frequency", ""),
          fields.text("typed_key_down", "")};
}

json to_json(const Part& part) {
  json out = {{"name", part.name}, {"kind", part.kind}, {"u_db", part.u_db}};
  if (part.network) {
    out["network"] = network_to_json(*part.network);
  } else if (!part.is_gain_known) {
    out["gain_unknown"] = true;
  } else if (part.gain.is_constant()) {
    out["gain_db"] = part.gain.largest_db();
  } else {
    json table = json::array();
    for (const GainPoint& p : part.gain.points())
      table.push_back(json::array({p.frequency_hz, p.gain_db}));
    out["gain_db"] = std::move(table);
  }
  const auto put = [&](const char* key, const std::optional<double>& value) {
    if (value) out[key] = *value;
  };
  put("vswr", part.vswr);
  put("max_input_w", part.max_input_w);
  put("time_constant_s", part.time_constant_s);
  put("max_input_dbm", part.max_input_dbm);
  put("full_scale_dbm", part.full_scale_dbm);
  put("linearity_u_db", part.linearity_u_db);
  put("interval_months", part.calibration.interval_months);
  put("ageing_u_db_per_month", part.calibration.ageing_u_db_per_month);
  if (!part.calibration.date.empty()) out["calibrated"] = part.calibration.date;
  if (!part.bench_id.empty()) out["bench_id"] = part.bench_id;
  if (part.best_input_dbm)
    out["best_input_dbm"] = json::array({part.best_input_dbm->first, part.best_input_dbm->second});
  return out;
}

json to_json(const Chain& chain) {
  json parts = json::array();
  for (const Part& part : chain.parts) parts.push_back(to_json(part));
  json out = {{"format", "even-heron-chain"}, {"version", 1}, {"parts", parts}};
  if (chain.is_impedance_stated) out["impedance_ohm"] = chain.impedance_ohm;
  if (!chain.name.empty()) out["name"] = chain.name;
  if (!chain.source.empty()) out["source"] = chain.source;
  if (chain.source_vswr) out["source_vswr"] = *chain.source_vswr;
  if (chain.source_u_db > 0.0) out["source_u_db"] = chain.source_u_db;
  if (chain.is_source_in_emf) out["source_in_emf"] = true;
  return out;
}

}  // namespace heron
