#include "core/chain/chain_json.h"

#include <fmt/format.h>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/read_text.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr std::uintmax_t kLargestFileMb = 64;

/// One object of the file and where it stands, for messages.
class Fields {
 public:
  Fields(const json& object, std::string subject, std::string place)
      : object_(object), subject_(std::move(subject)), place_(std::move(place)) {
    if (!object_.is_object()) refuse("", "it is not an object", "Write { } round it");
  }
  [[noreturn]] void refuse(const std::string& key, const std::string& why,
                           const std::string& what_to_do) const {
    const std::string where = place_.empty() ? key : key.empty() ? place_ : place_ + ", " + key;
    throw InputError(subject_, where, why, what_to_do);
  }
  std::optional<double> number(const char* key) const {
    const auto found = object_.find(key);
    if (found == object_.end() || found->is_null()) return std::nullopt;
    if (!found->is_number()) refuse(key, "it is not a number", "Write it without quotes");
    return found->get<double>();
  }
  std::string text(const char* key, const std::string& otherwise) const {
    const auto found = object_.find(key);
    if (found == object_.end()) return otherwise;
    if (!found->is_string()) refuse(key, "it is not text", "Write it in quotes");
    return found->get<std::string>();
  }
  const json* find(const char* key) const {
    const auto found = object_.find(key);
    return found == object_.end() || found->is_null() ? nullptr : &*found;
  }

 private:
  const json& object_;
  std::string subject_;
  std::string place_;
};

/// A list of pairs of numbers.
std::vector<std::pair<double, double>> pairs(const Fields& fields, const char* key,
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

Part part_from_json(const json& record, const std::string& subject, std::size_t index,
                    const NetworkText& network) {
  const Fields head(record, subject, fmt::format("part {}", index + 1));
  Part part;
  part.name = head.text("name", fmt::format("part {}", index + 1));
  const Fields fields(record, subject,
                      fmt::format("part {} (\u201c{}\u201d)", index + 1, part.name));
  part.kind = fields.text("kind", "adapter");
  part.u_db = fields.number("u_db").value_or(0.0);
  part.vswr = fields.number("vswr");
  part.max_input_w = fields.number("max_input_w");
  part.time_constant_s = fields.number("time_constant_s");
  part.max_input_dbm = fields.number("max_input_dbm");
  if (const json* window = fields.find("best_input_dbm")) {
    if (!window->is_array())
      fields.refuse("best_input_dbm", "it is not a pair", "Write [-25, -10]");
    const auto pair = pairs(fields, "best_input_dbm", json::array({*window}));
    part.best_input_dbm = pair.front();
  }
  const json* gain = fields.find("gain_db");
  const std::string file = fields.text("touchstone", "");
  if (gain != nullptr && !file.empty())
    fields.refuse("gain_db", "there is a Touchstone file too", "Keep one of the two");
  if (!file.empty()) {
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
  } else if (part.kind != "instrument" && part.kind != "adapter") {
    fields.refuse("gain_db", "it is missing", "Write the gain in dB, negative for loss");
  }
  check_part(part);
  return part;
}

}  // namespace

Chain chain_from_json(const json& record, const std::string& subject, const NetworkText& network) {
  const Fields root(record, subject, "");
  if (root.text("format", "") != "even-heron-chain")
    root.refuse("format", "this is not a chain file",
                "It begins with \"format\": \"even-heron-chain\"");
  if (root.number("version").value_or(1.0) > 1.0)
    root.refuse("version", "a newer Even Heron wrote this file", "Update Even Heron");
  Chain chain;
  chain.name = root.text("name", "");
  chain.impedance_ohm = root.number("impedance_ohm").value_or(50.0);
  chain.source_vswr = root.number("source_vswr");
  if (chain.source_vswr && !(*chain.source_vswr >= 1.0))
    root.refuse("source_vswr", "it is less than 1", "A perfect match is 1");
  const json* parts = root.find("parts");
  if (parts == nullptr || !parts->is_array() || parts->empty())
    root.refuse("parts", "it has no parts", "Add at least the instrument");
  for (const json& part : *parts)
    chain.parts.push_back(part_from_json(part, subject, chain.parts.size(), network));
  return chain;
}

Chain read_chain(const std::filesystem::path& path) {
  const std::string text = read_text(path, kLargestFileMb);
  const std::string subject = path.filename().string();
  json record;
  try {
    record = json::parse(text);
  } catch (const json::parse_error& error) {
    throw InputError(subject, fmt::format("byte {}", error.byte), "it is not JSON",
                     "Compare it with the example in the documentation");
  }
  return chain_from_json(record, subject, [&](const std::string& file) {
    return read_text(path.parent_path() / file, kLargestFileMb);
  });
}

json to_json(const Chain& chain) {
  json parts = json::array();
  for (const Part& part : chain.parts) {
    json out = {{"name", part.name}, {"kind", part.kind}, {"u_db", part.u_db}};
    if (part.gain.is_constant()) {
      out["gain_db"] = part.gain.largest_db();
    } else {
      json table = json::array();
      for (const GainPoint& p : part.gain.points())
        table.push_back(json::array({p.frequency_hz, p.gain_db}));
      out["gain_db"] = std::move(table);
    }
    if (part.vswr) out["vswr"] = *part.vswr;
    if (part.max_input_w) out["max_input_w"] = *part.max_input_w;
    if (part.time_constant_s) out["time_constant_s"] = *part.time_constant_s;
    if (part.max_input_dbm) out["max_input_dbm"] = *part.max_input_dbm;
    if (part.best_input_dbm)
      out["best_input_dbm"] =
          json::array({part.best_input_dbm->first, part.best_input_dbm->second});
    parts.push_back(std::move(out));
  }
  json out = {{"format", "even-heron-chain"},
              {"version", 1},
              {"impedance_ohm", chain.impedance_ohm},
              {"parts", parts}};
  if (!chain.name.empty()) out["name"] = chain.name;
  if (chain.source_vswr) out["source_vswr"] = *chain.source_vswr;
  return out;
}

}  // namespace heron
