#include "core/chain/bench_item.h"

#include <algorithm>
#include <array>

#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

const char* const kPads = "Pads and loads";
const char* const kLines = "Cables and adapters";
const char* const kCouplers = "Couplers and filters";
const char* const kActive = "Amplifiers and probes";
const char* const kInstruments = "Instruments";

/// Where the number of a field lives, const as the item is.
template <class Item>
auto optional_number(Item& item, const std::string& key) -> decltype(&item.gate_s) {
  if (key == "vswr") return &item.part.vswr;
  if (key == "max_input_w") return &item.part.max_input_w;
  if (key == "time_constant_s") return &item.part.time_constant_s;
  if (key == "max_input_dbm") return &item.part.max_input_dbm;
  if (key == "full_scale_dbm") return &item.part.full_scale_dbm;
  if (key == "interval_months") return &item.part.calibration.interval_months;
  if (key == "timebase_ppm") return &item.timebase_ppm;
  if (key == "gate_s") return &item.gate_s;
  if (key == "current_limit_a") return &item.current_limit_a;
  return nullptr;
}

template <class Item>
auto text_of(Item& item, const std::string& key) -> decltype(&item.note) {
  if (key == "name") return &item.part.name;
  if (key == "serial") return &item.serial;
  if (key == "note") return &item.note;
  if (key == "level_means") return &item.level_means;
  if (key == "resolution") return &item.resolution;
  if (key == "calibrated") return &item.part.calibration.date;
  return nullptr;
}

/// The value of a number field in its quantity's unit.
std::optional<double> number_of(const BenchItem& item, const std::string& key) {
  if (key == "gain_db")
    return item.part.gain.is_constant() && item.part.is_gain_known
               ? std::optional(item.part.gain.largest_db())
               : std::nullopt;
  if (key == "u_db") return 2.0 * item.part.u_db;
  if (key == "linearity_u_db")
    return item.part.linearity_u_db ? std::optional(2.0 * *item.part.linearity_u_db) : std::nullopt;
  if (key == "ageing_u_db_per_month") {
    const auto& ageing = item.part.calibration.ageing_u_db_per_month;
    return ageing ? std::optional(2.0 * *ageing) : std::nullopt;
  }
  if (key == "best_low")
    return item.part.best_input_dbm ? std::optional(item.part.best_input_dbm->first) : std::nullopt;
  if (key == "best_high")
    return item.part.best_input_dbm ? std::optional(item.part.best_input_dbm->second)
                                    : std::nullopt;
  const std::optional<double>* place = optional_number(item, key);
  return place != nullptr ? *place : std::nullopt;
}

void set_number(BenchItem& item, const std::string& key, std::optional<double> value) {
  if (std::optional<double>* place = optional_number(item, key)) {
    *place = value;
  } else if (key == "gain_db") {
    // An adapter that nobody has measured loses next to nothing; of others that is not known.
    item.part.is_gain_known = value.has_value() || item.part.kind == "adapter";
    item.part.gain = Gain(value.value_or(0.0));
    item.part.network.reset();
    item.curve_name.clear();
  } else if (key == "u_db") {
    item.part.u_db = value.value_or(0.0) / 2.0;
  } else if (key == "linearity_u_db") {
    item.part.linearity_u_db = value ? std::optional(*value / 2.0) : std::nullopt;
  } else if (key == "ageing_u_db_per_month") {
    item.part.calibration.ageing_u_db_per_month =
        value ? std::optional(*value / 2.0) : std::nullopt;
  } else if (key == "best_low" || key == "best_high") {
    auto& window = item.part.best_input_dbm;
    if (!value) {
      window.reset();
      return;
    }
    // One end alone is a window of 20 dB until the other is typed.
    if (!window)
      window =
          key == "best_low" ? std::pair{*value, *value + 20.0} : std::pair{*value - 20.0, *value};
    (key == "best_low" ? window->first : window->second) = *value;
  }
}

void check_date(const std::string& date) {
  if (!months_between(date, date))
    throw InputError("\u201c" + date + "\u201d", "", "it is not a date",
                     "Write it like 2026-03-14");
}

/// The time constant may be typed before the rating that it belongs to.
void check_unfinished(Part part) {
  if (!part.max_input_w) part.time_constant_s.reset();
  check_part(part);
}

/// "1 MHz: -0.05 dB; 30 MHz: -0.40 dB" as a gain over frequency.
Gain gain_table(const std::string& typed) {
  std::vector<GainPoint> points;
  std::size_t at = 0;
  while (at <= typed.size()) {
    const std::size_t end = std::min(typed.find(';', at), typed.size());
    const std::string entry = typed.substr(at, end - at);
    at = end + 1;
    if (entry.find_first_not_of(' ') == std::string::npos) continue;
    const std::size_t colon = entry.find(':');
    if (colon == std::string::npos)
      throw InputError("\u201c" + entry + "\u201d", "", "a frequency or a gain is missing",
                       "Type a table like 1 MHz: \u22120.05 dB; 30 MHz: \u22120.4 dB");
    points.push_back({parse_quantity(entry.substr(0, colon), Quantity::frequency).value,
                      parse_quantity(entry.substr(colon + 1), Quantity::gain).value});
  }
  return {std::move(points), "\u201c" + typed + "\u201d"};
}

}  // namespace

const std::vector<BenchSort>& bench_sorts() {
  static const std::vector<BenchSort> sorts = {
      {"attenuator", "Attenuator", kPads, "attenuator"},
      {"step_attenuator", "Step attenuator", kPads, "attenuator"},
      {"load", "Load with a tap", kPads, "load"},
      {"cable", "Cable", kLines, "cable"},
      {"adapter", "Adapter", kLines, "adapter"},
      {"splitter", "Splitter", kLines, "splitter"},
      {"coupler", "Coupler", kCouplers, "coupler"},
      {"tap", "Sampling tap", kCouplers, "tap"},
      {"filter", "Filter", kCouplers, "filter"},
      {"amplifier", "Amplifier", kActive, "amplifier"},
      {"probe", "Probe", kActive, "probe"},
      {"generator", "Generator", kInstruments, "instrument"},
      {"sampler", "Sampler", kInstruments, "instrument"},
      {"spectrum_analyser", "Spectrum analyser", kInstruments, "instrument"},
      {"power_meter", "Power meter", kInstruments, "instrument"},
      {"power_sensor", "Power sensor", kInstruments, "instrument"},
      {"counter", "Counter", kInstruments, "instrument"},
      {"rms_voltmeter", "Voltmeter, true RMS", kInstruments, "instrument"},
      {"average_voltmeter", "Voltmeter, average responding", kInstruments, "instrument"},
      {"supply", "Supply", kInstruments, "instrument"},
      {"thermometer", "Thermometer", kInstruments, "instrument"}};
  return sorts;
}

const BenchSort* find_bench_sort(const std::string& id) {
  const auto& sorts = bench_sorts();
  const auto found =
      std::find_if(sorts.begin(), sorts.end(), [&](const BenchSort& s) { return s.id == id; });
  return found == sorts.end() ? nullptr : &*found;
}

std::vector<BenchField> bench_fields(const std::string& sort) {
  const BenchSort* found = find_bench_sort(sort);
  const bool is_instrument = found != nullptr && found->kind == "instrument";
  const bool has_input = sort != "generator" && sort != "supply" && sort != "thermometer";
  const bool is_level_meter = sort == "sampler" || sort == "spectrum_analyser" ||
                              sort == "power_meter" || sort == "power_sensor";
  std::vector<BenchField> fields = {{"name", "Name", "what it says on your bench", {}, {}},
                                    {"serial", "Number", "serial or your own mark", {}, {}}};
  const auto add = [&](const char* key, const char* label, const char* hint,
                       std::optional<Quantity> quantity, std::vector<std::string> choices = {}) {
    fields.push_back({key, label, hint, quantity, std::move(choices)});
  };
  if (!is_instrument)
    add("gain_db", sort == "amplifier" ? "Gain" : "Gain, negative for loss",
        "a number, a table such as 1 MHz: \u22120.1; 30 MHz: \u22120.4, or drop a Touchstone file",
        Quantity::gain);
  if (!is_instrument || is_level_meter || sort == "generator")
    add("u_db", is_instrument ? "\u00b1 of its level" : "\u00b1 of the gain",
        "95 % interval on the day of calibration", Quantity::uncertainty);
  if (sort == "generator")
    add("level_means", "Dial calibrated in", "dBm into a match, or volts as EMF or PD", {},
        {"dbm", "emf", "pd"});
  if (sort == "sampler" || sort == "spectrum_analyser")
    add("linearity_u_db", "\u00b1 linearity", "linearity between two lines, 95 % interval",
        Quantity::uncertainty);
  if (sort == "counter") {
    add("timebase_ppm", "Timebase", "its limit of error", Quantity::relative);
    add("gate_s", "Gate", "counting time", Quantity::duration);
  }
  if (sort == "supply") add("current_limit_a", "Current limit", "", Quantity::current);
  if (!is_instrument || is_level_meter || sort == "generator")
    add("vswr", "VSWR", "at its ports; or the return loss in dB", Quantity::vswr);
  if (has_input && sort != "counter") {
    add("max_input_w", "Continuous rating", "average power without time limit", Quantity::power);
    add("time_constant_s", "Time constant", "of heating; unknown makes the rating absolute",
        Quantity::duration);
  }
  if (has_input)
    add("max_input_dbm", is_instrument ? "Damage level" : "Peak rating", "peak envelope, absolute",
        Quantity::level);
  if (is_level_meter || sort == "counter") {
    add("best_low", "Input range from", "lower end of its input range", Quantity::level);
    add("best_high", "Input range to", "upper end of its input range", Quantity::level);
  }
  if (sort == "sampler")
    add("full_scale_dbm", "Full scale", "a full-scale sinusoid at its input", Quantity::level);
  if (is_instrument)
    add("resolution", "Resolution", "last digit of the display, such as 0.1 mV", {});
  add("calibrated", "Calibrated", "the day, such as 2026-03-14", {});
  add("interval_months", "Calibration interval", "months between calibrations", Quantity::interval);
  if (!is_instrument || is_level_meter || sort == "generator")
    add("ageing_u_db_per_month", "Ages by, a month",
        "not stated: its \u00b1 comes again within one interval", Quantity::uncertainty);
  add("note", "Note", "", {});
  return fields;
}

std::string_view usual_text(std::string_view sort, std::string_view key) {
  struct Usual {
    std::string_view sort, key, text;
  };
  static constexpr std::array kUsual{Usual{"attenuator", "gain_db", "\u221220 dB"},
                                     Usual{"attenuator", "u_db", "0.3 dB"},
                                     Usual{"attenuator", "vswr", "1.2"},
                                     Usual{"attenuator", "max_input_w", "2 W"},
                                     Usual{"step_attenuator", "gain_db", "\u221210 dB"},
                                     Usual{"step_attenuator", "u_db", "0.5 dB"},
                                     Usual{"step_attenuator", "vswr", "1.3"},
                                     Usual{"step_attenuator", "max_input_w", "1 W"},
                                     Usual{"load", "gain_db", "\u221240 dB"},
                                     Usual{"load", "u_db", "0.5 dB"},
                                     Usual{"load", "vswr", "1.2"},
                                     Usual{"load", "max_input_w", "100 W"},
                                     Usual{"load", "time_constant_s", "60 s"},
                                     Usual{"cable", "gain_db", "\u22120.4 dB"},
                                     Usual{"cable", "u_db", "0.1 dB"},
                                     Usual{"cable", "max_input_w", "100 W"},
                                     Usual{"adapter", "gain_db", "\u22120.1 dB"},
                                     Usual{"adapter", "u_db", "0.05 dB"},
                                     Usual{"splitter", "gain_db", "\u22126.2 dB"},
                                     Usual{"splitter", "u_db", "0.3 dB"},
                                     Usual{"splitter", "max_input_w", "1 W"},
                                     Usual{"coupler", "gain_db", "\u221230 dB"},
                                     Usual{"coupler", "u_db", "0.5 dB"},
                                     Usual{"coupler", "max_input_w", "200 W"},
                                     Usual{"tap", "gain_db", "\u221240 dB"},
                                     Usual{"tap", "u_db", "1 dB"},
                                     Usual{"tap", "max_input_w", "200 W"},
                                     Usual{"filter", "gain_db", "\u22120.5 dB"},
                                     Usual{"filter", "u_db", "0.2 dB"},
                                     Usual{"filter", "max_input_w", "10 W"},
                                     Usual{"amplifier", "gain_db", "20 dB"},
                                     Usual{"amplifier", "u_db", "0.5 dB"},
                                     Usual{"amplifier", "max_input_dbm", "0 dBm"},
                                     Usual{"probe", "gain_db", "\u221220 dB"},
                                     Usual{"probe", "u_db", "0.5 dB"},
                                     Usual{"generator", "u_db", "1 dB"},
                                     Usual{"generator", "vswr", "1.5"},
                                     Usual{"sampler", "u_db", "1 dB"},
                                     Usual{"sampler", "linearity_u_db", "0.5 dB"},
                                     Usual{"sampler", "max_input_dbm", "+10 dBm"},
                                     Usual{"spectrum_analyser", "u_db", "1.5 dB"},
                                     Usual{"spectrum_analyser", "linearity_u_db", "0.5 dB"},
                                     Usual{"spectrum_analyser", "max_input_dbm", "+30 dBm"},
                                     Usual{"power_meter", "u_db", "0.4 dB"},
                                     Usual{"power_meter", "max_input_dbm", "+23 dBm"},
                                     Usual{"power_sensor", "u_db", "0.3 dB"},
                                     Usual{"power_sensor", "max_input_dbm", "+23 dBm"},
                                     Usual{"counter", "timebase_ppm", "1 ppm"},
                                     Usual{"counter", "gate_s", "1 s"},
                                     Usual{"supply", "current_limit_a", "10 A"}};
  const auto found = std::find_if(kUsual.begin(), kUsual.end(),
                                  [&](const Usual& u) { return u.sort == sort && u.key == key; });
  return found == kUsual.end() ? std::string_view() : found->text;
}

std::string field_text(const BenchItem& item, const BenchField& field) {
  if (!field.quantity) {
    const std::string* text = text_of(item, field.key);
    return text != nullptr ? *text : std::string();
  }
  const auto typed = item.typed.find(field.key);
  if (field.key == "gain_db" && typed == item.typed.end() && !item.part.gain.is_constant() &&
      !item.part.network) {
    std::string table;
    for (const GainPoint& p : item.part.gain.points())
      table += (table.empty() ? "" : "; ") + frequency_text(p.frequency_hz) + ": " +
               quantity_text(Quantity::gain, p.gain_db);
    return table;
  }
  if (typed != item.typed.end()) return typed->second;
  const auto value = number_of(item, field.key);
  if (!value || (field.key == "u_db" && *value == 0.0)) return {};
  return quantity_text(*field.quantity, *value);
}

void set_field(BenchItem& item, const BenchField& field, const std::string& typed) {
  if (!field.quantity) {
    std::string* text = text_of(item, field.key);
    if (text == nullptr) return;
    if (!field.choices.empty() && !typed.empty() &&
        std::find(field.choices.begin(), field.choices.end(), typed) == field.choices.end())
      throw InputError("\u201c" + typed + "\u201d", "", "it is not one of the choices",
                       "Choose " + field.choices.front());
    if (field.key == "calibrated" && !typed.empty()) check_date(typed);
    if (field.key == "name" && typed.empty())
      throw InputError("name", "", "it is empty", "Type what you call it");
    *text = typed;
    return;
  }
  BenchItem changed = item;
  if (typed.empty()) {
    changed.typed.erase(field.key);
    set_number(changed, field.key, std::nullopt);
  } else {
    if (field.key == "gain_db" && typed.find(';') != std::string::npos) {
      set_number(changed, field.key, 0.0);
      changed.part.gain = gain_table(typed);
    } else {
      double value = parse_quantity(typed, *field.quantity).value;
      // "30 dB" of something that can only lose is a loss.
      const PartKind* kind = find_part_kind(changed.part.kind);
      const bool is_signed = typed.find('+') != std::string::npos;
      if (field.key == "gain_db" && kind != nullptr && kind->is_passive && !is_signed)
        value = -std::abs(value);
      set_number(changed, field.key, value);
    }
    changed.typed[field.key] = typed;
  }
  check_unfinished(changed.part);
  item = std::move(changed);
}

void set_curve(BenchItem& item, std::string_view text, const std::string& file_name) {
  const Touchstone network = parse_touchstone(text, file_name);
  BenchItem changed = item;
  changed.part.network = network;
  changed.part.is_gain_known = true;
  changed.part.gain = network.gain(file_name);
  changed.curve_name = file_name;
  changed.typed.erase("gain_db");
  check_part(changed.part);
  item = std::move(changed);
}

void calibrate(BenchItem& item, const std::string& date, std::optional<double> gain_db,
               double u_db) {
  check_date(date);
  BenchItem changed = item;
  Part& part = changed.part;
  if (!part.calibration.date.empty()) {
    changed.past.push_back(
        {part.calibration.date, part.u_db,
         part.gain.is_constant() ? std::optional(part.gain.largest_db()) : std::nullopt});
  }
  part.calibration.date = date;
  part.u_db = u_db;
  changed.typed.erase("u_db");
  if (gain_db) {
    part.is_gain_known = true;
    part.gain = Gain(*gain_db);
    part.network.reset();
    changed.curve_name.clear();
    changed.typed.erase("gain_db");
  }
  check_part(part);
  item = std::move(changed);
}

BenchItem made_item(const std::string& sort) {
  const BenchSort* found = find_bench_sort(sort);
  if (found == nullptr)
    throw InputError("sort", "", "\u201c" + sort + "\u201d is not known", "Choose one of the list");
  BenchItem item;
  item.sort = found->id;
  item.part.name = found->label;
  item.part.kind = found->kind;
  item.part.calibration.interval_months = 12.0;
  return item;
}

BenchItem blank_item(const std::string& sort) {
  BenchItem item = made_item(sort);
  const std::string& kind = item.part.kind;
  item.part.is_gain_known = kind == "instrument" || kind == "device" || kind == "adapter";
  return item;
}

void check_item(const BenchItem& item) {
  if (find_bench_sort(item.sort) == nullptr)
    throw InputError("\u201c" + item.part.name + "\u201d", "sort",
                     "\u201c" + item.sort + "\u201d is not known", "Choose one of the list");
  if (item.part.name.empty())
    throw InputError("bench item", "name", "it is empty", "Type what you call it");
  check_unfinished(item.part);
}

}  // namespace heron
