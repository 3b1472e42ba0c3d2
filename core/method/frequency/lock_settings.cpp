#include "core/method/frequency/lock_settings.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/error.h"
#include "core/method/frequency/frequency_fields.h"
#include "core/method/frequency/tone_log.h"
#include "core/method/live_quantity.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr double kHeldShare = 0.1;     ///< of the internal offset
constexpr double kHeldHz = 0.5;        ///< where no offset is known
constexpr double kDisturbed = 5.0;     ///< times the quiet scatter
constexpr double kLeastQuiet = 1e-10;  ///< of nominal: no counter shows less

Reading state_typed(const TypedField& field, const std::string& typed, const std::string&) {
  const std::string word = lower_case(normalised_typing(typed));
  Reading r;
  r.quantity = field.quantity;
  r.unit = field.unit;
  r.typed = typed;
  for (const LockState state : {LockState::held, LockState::disturbed, LockState::lost}) {
    const std::string name = lock_state_word(state);
    if (word != name && word != name.substr(0, 1)) continue;
    r.value = static_cast<double>(state);
    r.typed = name;
    return r;
  }
  throw InputError("\u201c" + typed + "\u201d", "", "it is no state",
                   "Type held, disturbed or lost");
}

/// "pad -3 dB": a name, and what it does to the level.
json parse_between(const std::string& text) {
  json all = json::array();
  std::istringstream lines(text);
  std::size_t number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    const std::string typed = normalised_typing(line);
    if (typed.empty()) continue;
    // The last number in it, so that a name may have one too.
    std::string rest =
        lower_case(typed).ends_with("db") ? typed.substr(0, typed.size() - 2) : typed;
    rest = normalised_typing(rest);
    const auto cut = rest.find_last_of(" ,;:\t");
    const auto db = cut != std::string::npos ? parse_number(rest.substr(cut + 1)) : std::nullopt;
    std::string name = cut != std::string::npos ? normalised_typing(rest.substr(0, cut)) : "";
    while (!name.empty() && std::string_view(",;:").find(name.back()) != std::string_view::npos)
      name.pop_back();
    if (!db || name.empty() || std::abs(*db) > 200.0)
      throw InputError("line " + std::to_string(number), "",
                       "it is no part with what it does to the level",
                       "Type it like \u201cpad \u22123 dB\u201d");
    all.push_back({{"name", name}, {"gain_db", *db}});
  }
  return all;
}

std::string written_between(const json& kept) {
  std::string text;
  if (!kept.is_array()) return text;
  for (const json& part : kept)
    text += part.at("name").get<std::string>() + " " +
            number_text(part.at("gain_db").get<double>(), 1, true) + " dB\n";
  return text;
}

std::string told_between(const json& kept) {
  if (!kept.is_array() || kept.empty()) return "nothing between";
  double sum = 0.0;
  for (const json& part : kept) sum += part.at("gain_db").get<double>();
  return std::to_string(kept.size()) + (kept.size() == 1 ? " part, " : " parts, ") +
         number_text(sum, 1, true) + " dB";
}

/// "3 dB rising" says what is added.
std::optional<double> named_attenuation(const std::string& label) {
  const auto number = leading_number(normalised_typing(label));
  if (!number || !lower_case(number->rest).starts_with("db")) return std::nullopt;
  return number->value;
}

/// The tone of a receiver that is tuned to it, part after part.
void take_tone(const EvidenceStep& s, LockReading& r) {
  const auto* log = dynamic_cast<const ToneLog*>(s.analysis.get());
  if (log == nullptr || log->tone_hz.empty() || r.counts > 0) return;
  const auto n = static_cast<double>(log->tone_hz.size());
  double mean = 0.0;
  for (const double hz : log->tone_hz) mean += hz / n;
  double square = 0.0;
  for (const double hz : log->tone_hz) square += (hz - mean) * (hz - mean);
  r.tone_hz = mean;
  r.counts = log->tone_hz.size();
  if (n > 1.0) r.scatter_hz = std::sqrt(square / (n - 1.0));
  if (log->sideband) r.sideband_dbc = log->sideband->level_dbc;
}

LockReading reading_of(const EvidenceStep& s, const LockPlan& plan) {
  LockReading r;
  r.label = s.label;
  const Condition* added = find_condition(s.conditions, kAttenuation);
  r.attenuation_db =
      added != nullptr ? std::optional(std::abs(added->value)) : named_attenuation(s.label);
  std::vector<double> counted;
  for (const Reading& one : s.readings)
    if (one.quantity == kCountedFrequency) counted.push_back(one.value);
  r.counts = counted.size();
  if (!counted.empty() && plan.nominal_hz) {
    double mean = 0.0;
    for (const double hz : counted)
      mean += (hz - *plan.nominal_hz) / static_cast<double>(counted.size());
    r.offset_hz = mean;
    double square = 0.0;
    for (const double hz : counted) square += std::pow(hz - *plan.nominal_hz - mean, 2.0);
    if (counted.size() > 1)
      r.scatter_hz = std::sqrt(square / static_cast<double>(counted.size() - 1));
  }
  take_tone(s, r);
  if (const Reading* scatter = find_reading(s.readings, kScatterReading))
    r.scatter_hz = std::abs(scatter->value);
  if (const Reading* state = find_reading(s.readings, kLockStateReading)) {
    r.state = static_cast<LockState>(std::clamp(static_cast<int>(state->value), 0, 2));
    r.is_by_hand = true;
  }
  const bool is_read = r.state || r.counts > 0 || r.scatter_hz;
  if (is_read && !r.attenuation_db)
    r.refusal = "how much attenuation was added is not known";
  else if (r.counts > 0 && !r.tone_hz && !plan.nominal_hz && !r.state)
    r.refusal = "the nominal frequency is not known";
  return r;
}

}  // namespace

std::string lock_state_word(LockState state) {
  switch (state) {
    case LockState::held:
      return "held";
    case LockState::disturbed:
      return "disturbed";
    case LockState::lost:
      return "lost";
  }
  return "lost";
}

LockPlan lock_plan(const Evidence& evidence) {
  LockPlan plan;
  const json& from = own_settings(evidence.settings, kLockSettings);
  try {
    plan.nominal_hz = number_from(from, "nominal_hz");
    plan.source_dbm = number_from(from, "source_dbm");
    plan.output_dbm = number_from(from, "output_dbm");
    for (const json& part : from.value("between", json::array()))
      plan.between.push_back({part.at("name"), part.at("gain_db")});
    if (!plan.source_dbm && plan.output_dbm) {
      plan.source_dbm = plan.output_dbm;
      for (const LockPlan::Part& part : plan.between) *plan.source_dbm += part.gain_db;
      plan.is_level_planned = true;
    }
    plan.lowest_dbm = number_from(from, "lowest_dbm");
    plan.highest_dbm = number_from(from, "highest_dbm");
    plan.offset_hz = number_from(from, "offset_hz");
    plan.is_restored = from.value("restored", false);
    plan.shares_source = from.value("shared", false);
    plan.held_hz = number_from(from, "held_hz");
    plan.most_sideband_dbc = number_from(from, "sideband_dbc").value_or(plan.most_sideband_dbc);
    plan.need.least_db = number_from(from, "least_db").value_or(plan.need.least_db);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "dB") plan.need.needed_db = evidence.limit->value;
  return plan;
}

std::vector<LockReading> lock_readings(const Evidence& evidence, const LockPlan& plan) {
  std::vector<LockReading> all;
  for (const EvidenceStep& s : evidence.steps) all.push_back(reading_of(s, plan));
  const double held_hz =
      plan.held_hz.value_or(plan.offset_hz ? kHeldShare * std::abs(*plan.offset_hz) : kHeldHz);
  // The strongest reference is as quiet as it gets.
  const LockReading* quiet = nullptr;
  for (const LockReading& r : all) {
    if (!r.scatter_hz || !r.attenuation_db) continue;
    if (quiet == nullptr || *r.attenuation_db < *quiet->attenuation_db) quiet = &r;
  }
  // Where it is heard and not counted, that is where it is right.
  const LockReading* first = nullptr;
  for (const LockReading& r : all)
    if (r.tone_hz && r.attenuation_db &&
        (first == nullptr || *r.attenuation_db < *first->attenuation_db))
      first = &r;
  const double right_hz = first != nullptr ? *first->tone_hz : 0.0;
  for (LockReading& r : all)
    if (r.tone_hz) r.offset_hz = *r.tone_hz - right_hz;
  const double most_hz =
      quiet == nullptr
          ? 0.0
          : kDisturbed * std::max(*quiet->scatter_hz, kLeastQuiet * plan.nominal_hz.value_or(0.0));
  for (LockReading& r : all) {
    if (r.state || !r.offset_hz) continue;
    const bool has_sidebands = r.sideband_dbc && *r.sideband_dbc > plan.most_sideband_dbc;
    const bool is_scattered =
        r.scatter_hz && quiet != nullptr && &r != quiet && *r.scatter_hz > most_hz;
    r.state = std::abs(*r.offset_hz) > held_hz ? LockState::lost
              : is_scattered || has_sidebands  ? LockState::disturbed
                                               : LockState::held;
  }
  return all;
}

json usual_lock_settings() {
  return {{"nominal_hz", nullptr},   {"source_dbm", nullptr}, {"lowest_dbm", nullptr},
          {"highest_dbm", nullptr},  {"offset_hz", nullptr},  {"restored", false},
          {"shared", false},         {"held_hz", nullptr},    {"least_db", nullptr},
          {"sideband_dbc", nullptr}, {"output_dbm", nullptr}, {"between", json::array()}};
}

std::string check_lock_settings(const json& settings) {
  const json& own = own_settings(settings, kLockSettings);
  const auto low = number_from(own, "lowest_dbm");
  const auto high = number_from(own, "highest_dbm");
  return low && high && *low >= *high ? "The input window ends before it begins." : "";
}

std::string lock_setting_words(const Evidence& evidence) {
  const LockPlan plan = lock_plan(evidence);
  return plan.source_dbm ? number_text(*plan.source_dbm, 1, true) + " dBm" : "not known";
}

std::vector<SettingField> lock_setting_fields() {
  using Kind = SettingField::Kind;
  constexpr const char* kWindow = "Input window";
  constexpr const char* kLevels = "Level plan";
  constexpr const char* kRun = "The run";
  return {
      quantity_setting("source_dbm", "", "Input level",
                       "At its reference input, with nothing added: source less splitter and pads.",
                       Quantity::level, "dBm", "Not known", "+3.3 dBm"),
      quantity_setting("nominal_hz", "", "Nominal", "Of what is counted, locked.",
                       Quantity::frequency, "Hz", "Not known", "10 MHz"),
      quantity_setting("lowest_dbm", kWindow, "Lowest", "That its maker states.", Quantity::level,
                       "dBm", "Not stated", "-5 dBm"),
      quantity_setting("highest_dbm", kWindow, "Highest", "That its maker states.", Quantity::level,
                       "dBm", "Not stated", "+10 dBm"),
      quantity_setting("output_dbm", kLevels, "Source",
                       "What the outside reference gives by itself, where the input level is not "
                       "measured.",
                       Quantity::level, "dBm", "Not known", "+13 dBm"),
      {.kind = Kind::text,
       .key = "between",
       .group = kLevels,
       .head = "Between source and input",
       .hint = "A line each, with what it does: \u201csplitter, 4-way \u22126.6 dB\u201d",
       .text = {.parse = parse_between, .written = written_between, .understood = told_between}},
      quantity_setting("offset_hz", kRun, "Internal offset",
                       "Set the internal oscillator so far off that loss cannot be missed.",
                       Quantity::frequency, "Hz", "None: loss may stay unseen", "12 Hz"),
      {.kind = Kind::flag,
       .key = "restored",
       .group = kRun,
       .head = "The internal offset is restored",
       .hint = "Read back as it was before: only then the run is finished"},
      quantity_setting("held_hz", kRun, "Held within", "Further off it is lost.",
                       Quantity::frequency, "Hz", "A tenth of the offset", "0.5 Hz"),
      quantity_setting("sideband_dbc", kRun, "Disturbed above",
                       "Sidebands of a recorded tone, relative to it.", Quantity::limit, "dBc",
                       "\u221240 dBc, as usual", "-40 dBc"),
      quantity_setting("least_db", kRun, "Fails below", "Less margin than this fails.",
                       Quantity::gain, "dB", "3 dB, as usual", "3 dB"),
      {.kind = Kind::flag,
       .key = "shared",
       .head = "Counter and device share the reference",
       .hint = "Then 0 Hz means held, never accurate"}};
}

std::vector<TypedField> lock_fields() {
  using Kind = TypedField::Kind;
  return {{.kind = Kind::condition,
           .quantity = kAttenuation,
           .head = "Added",
           .hint = "Attenuation added before the reference input; a step may be called by it too",
           .asked = Quantity::gain,
           .unit = "dB",
           .width = 90,
           .csv = "attenuation_db"},
          counted_field(),
          {.quantity = kScatterReading,
           .head = "Scatter",
           .hint = "How much it moves from count to count; several readings of the counter say it "
                   "by themselves",
           .asked = Quantity::frequency,
           .unit = "Hz",
           .typed_unit = "Hz",
           .width = 90,
           .csv = "scatter_hz"},
          {.quantity = kLockStateReading,
           .head = "State",
           .hint = "held, disturbed or lost, by a lamp, by ear or by the screen; left empty, the "
                   "counter says it",
           .asked = Quantity::gain,
           .unit = "state",
           .width = 110,
           .csv = "locked",
           .read = state_typed,
           .keys = {{'H', "held"}, {'D', "disturbed"}, {'L', "lost"}}}};
}

}  // namespace heron
