#include "core/method/phase_noise/loop_text.h"

#include <array>
#include <cmath>
#include <sstream>
#include <string_view>

#include "core/error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

/// What a line may be about; `unit` is what it is written with again.
struct LoopLine {
  std::string_view name;
  std::string_view key;
  std::string_view unit;
  double* (*place)(LoopParts& parts);  ///< nullptr of what has a place of its own
  bool is_level = false;               ///< in dB, may be negative, without prefix
  bool is_list() const { return key == "charge_pump_a"; }
};

template <auto Member>
double* of_design(LoopParts& parts) {
  return &(parts.design.*Member);
}
template <auto Member>
double* of_noise(LoopParts& parts) {
  return &(parts.noise.*Member);
}
double* of_parts(LoopParts& parts) {
  return &parts.multiplication;
}
constexpr std::array<LoopLine, 19> kLoopLines{
    {{"charge pump", "charge_pump_a", "A", nullptr},
     {"VCO gain", "kvco_hz_per_v", "Hz/V", of_design<&LoopDesign::kvco_hz_per_v>},
     {"N", "n", "", of_design<&LoopDesign::n>},
     {"R2", "r2_ohm", "\u03a9", of_design<&LoopDesign::r2_ohm>},
     {"C1", "c1_f", "F", of_design<&LoopDesign::c1_f>},
     {"C2", "c2_f", "F", of_design<&LoopDesign::c2_f>},
     {"R3", "r3_ohm", "\u03a9", of_design<&LoopDesign::r3_ohm>},
     {"C3", "c3_f", "F", of_design<&LoopDesign::c3_f>},
     {"reference", "reference_hz", "Hz", of_noise<&LoopNoiseDesign::reference_hz>},
     {"multiplied by", "multiplication", "", of_parts},
     {"oscillator", "oscillator_dbc", "dBc/Hz", of_noise<&LoopNoiseDesign::oscillator_dbc>, true},
     {"oscillator corner", "oscillator_corner_hz", "Hz",
      of_noise<&LoopNoiseDesign::oscillator_corner_hz>},
     {"detector floor", "detector_floor", "dBc/Hz", of_noise<&LoopNoiseDesign::detector_floor>,
      true},
     {"pushing", "pushing_hz_per_v", "Hz/V", of_noise<&LoopNoiseDesign::pushing_hz_per_v>},
     {"supply noise", "supply_v_rt_hz", "V", of_noise<&LoopNoiseDesign::supply_v_rt_hz>},
     {"supply corner", "supply_corner_hz", "Hz", of_noise<&LoopNoiseDesign::supply_corner_hz>},
     {"series R", "series_ohm", "\u03a9", of_noise<&LoopNoiseDesign::series_ohm>},
     {"bulk C", "bulk_f", "F", of_noise<&LoopNoiseDesign::bulk_f>},
     {"bulk ESR", "bulk_esr_ohm", "\u03a9", of_noise<&LoopNoiseDesign::bulk_esr_ohm>}}};

/// The longest name that a line begins with.
const LoopLine* loop_line(const std::string& typed) {
  const LoopLine* best = nullptr;
  const std::string lower = lower_case(typed);
  for (const LoopLine& l : kLoopLines) {
    const std::string name = lower_case(std::string(l.name));
    if (!lower.starts_with(name) || lower.size() <= name.size()) continue;
    if (std::string_view(" =:\t").find(lower[name.size()]) == std::string_view::npos) continue;
    if (best == nullptr || l.name.size() > best->name.size()) best = &l;
  }
  return best;
}

const LoopLine& line_of_key(std::string_view key) {
  for (const LoopLine& l : kLoopLines)
    if (l.key == key) return l;
  throw InputError("loop", std::string(key), "it is no part of a loop", "Choose another part");
}

std::string after_name(const std::string& text) {
  const auto from = text.find_first_not_of(" =:\t");
  return from == std::string::npos ? std::string() : normalised_typing(text.substr(from));
}

/// "0.25, 0.5, 1 mA": a unit holds for all before it that have none.
std::vector<double> currents_of(const std::string& text) {
  std::vector<std::string> parts;
  std::istringstream in(text);
  for (std::string one; std::getline(in, one, ',');) parts.push_back(normalised_typing(one));
  if (parts.empty()) return {};
  const auto last = leading_number(parts.back());
  std::vector<double> all;
  for (const std::string& part : parts) {
    const auto number = leading_number(part);
    if (!number || !last) return {};
    const auto value = prefixed_number(number->rest.empty() ? part + " " + last->rest : part);
    if (!value || !(*value > 0.0)) return {};
    all.push_back(*value);
  }
  return all;
}

}  // namespace

std::optional<double> prefixed_number(const std::string& text) {
  const auto number = leading_number(normalised_typing(text));
  if (!number || !std::isfinite(number->value)) return std::nullopt;
  if (number->rest.empty()) return number->value;
  constexpr std::pair<char, double> kPrefixes[] = {
      {'p', 1e-12}, {'n', 1e-9}, {'u', 1e-6}, {'m', 1e-3}, {'k', 1e3}, {'M', 1e6}, {'G', 1e9}};
  for (const auto& [letter, factor] : kPrefixes)
    if (number->rest.front() == letter) return number->value * factor;
  return number->value;
}

json parse_loop_text(const std::string& text) {
  json kept = json::object();
  std::istringstream lines(text);
  std::size_t number = 0;
  for (std::string raw; std::getline(lines, raw);) {
    ++number;
    const std::string typed = normalised_typing(raw);
    if (typed.empty()) continue;
    const auto refuse = [&](const std::string& why, const std::string& todo) {
      throw InputError("line " + std::to_string(number), "", why, todo);
    };
    const LoopLine* line = loop_line(typed);
    if (line == nullptr)
      refuse("\u201c" + typed.substr(0, 24) + "\u201d is no part of a loop",
             "Begin it with charge pump, VCO gain, N, R2, C1, C2, R3, C3 or reference");
    const std::string value = after_name(typed.substr(line->name.size()));
    if (line->is_list()) {
      const std::vector<double> all = currents_of(value);
      if (all.empty())
        refuse("its currents cannot be read", "Type them like charge pump 0.25, 0.5, 1 mA");
      kept[std::string(line->key)] = all;
      continue;
    }
    const auto read = prefixed_number(value);
    if (!read || (!line->is_level && !(*read > 0.0)))
      refuse("it has no value", "Type it like R2 560, C1 1 nF, VCO gain 30 MHz/V");
    kept[std::string(line->key)] = *read;
  }
  return kept;
}

std::string written_loop(const json& kept) {
  std::string text;
  if (!kept.is_object()) return text;
  for (const LoopLine& l : kLoopLines) {
    const auto found = kept.find(std::string(l.key));
    if (found == kept.end()) continue;
    text += std::string(l.name) + " ";
    if (found->is_array()) {
      bool is_first = true;
      for (const json& one : *found) {
        text += fmt::format("{}{:.10g}", is_first ? "" : ", ", 1e3 * one.get<double>());
        is_first = false;
      }
      text += " mA\n";
      continue;
    }
    const double value = found->get<double>();
    if (l.is_level)
      text += fmt::format("{:.10g} dBc/Hz\n", value);
    else if (l.unit.empty())
      text += fmt::format("{:.10g}\n", value);
    else
      text += engineering_text(value, std::string(l.unit), 9) + "\n";
  }
  return text;
}

std::string loop_value_name(std::string_view key) {
  return std::string(line_of_key(key).name);
}

std::optional<double> loop_value(LoopParts parts, std::string_view key) {
  const LoopLine& line = line_of_key(key);
  return line.place == nullptr ? std::nullopt : std::optional(*line.place(parts));
}

std::string loop_value_text(std::string_view key, double value) {
  const LoopLine& line = line_of_key(key);
  if (line.is_level) return number_text(value, 1) + " dBc/Hz";
  return line.unit.empty() ? fmt::format("{:.5g}", value)
                           : engineering_text(value, std::string(line.unit), 4);
}

std::string told_loop(const json& kept) {
  const std::size_t n = kept.is_object() ? kept.size() : 0;
  return std::to_string(n) + (n == 1 ? " line" : " lines");
}

LoopParts with_loop_text(LoopParts parts, const json& kept) {
  if (!kept.is_object()) return parts;
  for (const LoopLine& l : kLoopLines) {
    const auto found = kept.find(std::string(l.key));
    if (l.place != nullptr && found != kept.end() && found->is_number())
      *l.place(parts) = found->get<double>();
  }
  if (const auto hz = number_from(kept, "reference_hz")) parts.design.reference_hz = hz;
  if (parts.design.reference_hz)
    parts.noise.oscillator_hz = *parts.design.reference_hz * parts.design.n;
  if (const auto found = kept.find("charge_pump_a"); found != kept.end() && found->is_array())
    parts.currents_a = found->get<std::vector<double>>();
  bool has_all = parts.has_all;
  if (!has_all) {
    has_all = true;
    for (const char* needed : {"charge_pump_a", "kvco_hz_per_v", "n", "r2_ohm", "c1_f", "c2_f"})
      has_all = has_all && kept.contains(needed);
  }
  parts.has_all = has_all;
  return parts;
}

}  // namespace heron
