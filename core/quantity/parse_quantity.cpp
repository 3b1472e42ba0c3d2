#include "core/quantity/parse_quantity.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <optional>
#include <vector>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_level.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

struct UnitFactor {
  std::string_view name;  ///< lower case
  double factor;
};

struct QuantityForms {
  std::string unit;
  std::vector<UnitFactor> units;
  std::string examples;
  double lowest;
  double highest;
  std::string range;
};

const QuantityForms& forms_of(Quantity quantity) {
  static const QuantityForms level{"dBm", {}, "30 W or \u221273 dBm", -400, 400, ""};
  static const QuantityForms power{"W", {}, "20 W or 43 dBm", 0, 1e9, "more than 0"};
  static const QuantityForms frequency{
      "MHz",
      {{"hz", 1.0}, {"khz", 1e3}, {"mhz", 1e6}, {"ghz", 1e9}, {"k", 1e3}, {"m", 1e6}, {"g", 1e9}},
      "14.2 MHz or 650 Hz",
      0.0,
      1e12,
      "from 0 Hz to 1 THz"};
  static const QuantityForms duration{
      "s",
      {{"s", 1.0}, {"sec", 1.0}, {"ms", 1e-3}, {"min", 60.0}, {"m", 60.0}, {"h", 3600.0}},
      "12 s or 2:10",
      0.0,
      1e7,
      "from 0 s to 115 days"};
  static const QuantityForms gain{"dB", {{"db", 1.0}}, "\u221240 dB or 10:1",
                                  -300, 300,           "from \u2212300 to 300 dB"};
  static const QuantityForms uncertainty{"dB", {{"db", 1.0}},    "0.3 dB or 5 %", 0,
                                         60,   "from 0 to 60 dB"};
  static const QuantityForms vswr{"", {}, "1.2 or 20 dB (return loss)", 1, 1000, "1 and more"};
  static const QuantityForms impedance{"\u03a9",
                                       {{"ohm", 1.0},
                                        {"ohms", 1.0},
                                        {"\u03c9", 1.0},
                                        {"\u03a9", 1.0},
                                        {"\u2126", 1.0},
                                        {"kohm", 1e3},
                                        {"k\u03a9", 1e3},
                                        {"k", 1e3}},
                                       "50 \u03a9 or 4.7 k\u03a9",
                                       1e-3,
                                       1e9,
                                       "more than 0 \u03a9"};
  static const QuantityForms relative{"ppm",
                                      {{"ppm", 1.0}, {"ppb", 1e-3}, {"%", 1e4}},
                                      "0.5 ppm or 500 ppb",
                                      0,
                                      1e6,
                                      "from 0 to 1 000 000 ppm"};
  static const QuantityForms interval{"months",
                                      {{"month", 1.0},
                                       {"months", 1.0},
                                       {"mo", 1.0},
                                       {"year", 12.0},
                                       {"years", 12.0},
                                       {"y", 12.0},
                                       {"week", 12.0 / 52.1775},
                                       {"weeks", 12.0 / 52.1775},
                                       {"wk", 12.0 / 52.1775},
                                       {"day", 12.0 / 365.2425},
                                       {"days", 12.0 / 365.2425},
                                       {"d", 12.0 / 365.2425}},
                                      "12 months or 2 years",
                                      0.03,
                                      1200,
                                      "from a day to 100 years"};
  static const QuantityForms current{"A", {{"a", 1.0}, {"ma", 1e-3}}, "10 A or 320 mA", 0,
                                     1e4, "from 0 to 10 000 A"};
  static const QuantityForms voltage{
      "V", {{"v", 1.0}, {"mv", 1e-3}, {"kv", 1e3}}, "13.8 V or 450 mV", 0, 1e5, "from 0 to 100 kV"};
  static const QuantityForms temperature{
      "\u00b0C",      {{"\u00b0c", 1.0}, {"c", 1.0}, {"\u2103", 1.0}},
      "21.5 \u00b0C", -100,
      1000,           "from \u2212100 to 1000 \u00b0C"};
  static const QuantityForms number{"", {{"", 1.0}}, "512", -1e9, 1e9, "from \u22121e9 to 1e9"};
  static const QuantityForms limit{"dB", {{"db", 1.0}, {"dbc", 1.0}}, "\u221230 dB or 0.1 %", -150,
                                   0,    "from \u2212150 to 0 dB"};
  switch (quantity) {
    case Quantity::level:
      return level;
    case Quantity::power:
      return power;
    case Quantity::frequency:
      return frequency;
    case Quantity::duration:
      return duration;
    case Quantity::gain:
      return gain;
    case Quantity::uncertainty:
      return uncertainty;
    case Quantity::vswr:
      return vswr;
    case Quantity::impedance:
      return impedance;
    case Quantity::relative:
      return relative;
    case Quantity::interval:
      return interval;
    case Quantity::current:
      return current;
    case Quantity::voltage:
      return voltage;
    case Quantity::temperature:
      return temperature;
    case Quantity::number:
      return number;
    case Quantity::limit:
      return limit;
  }
  return gain;
}

[[noreturn]] void refuse(std::string_view typed, const std::string& why, Quantity quantity) {
  throw InputError("\u201c" + std::string(typed) + "\u201d", "", why,
                   "Type it like " + forms_of(quantity).examples);
}

/// "2:10" and "1:02:30".
std::optional<double> clock_seconds(const std::string& text) {
  double total = 0.0;
  std::size_t at = 0;
  int parts = 0;
  while (true) {
    const std::size_t colon = text.find(':', at);
    const auto part = parse_number(text.substr(at, colon - at));
    if (!part || *part < 0.0 || (parts > 0 && *part >= 60.0)) return std::nullopt;
    total = total * 60.0 + *part;
    ++parts;
    if (colon == std::string::npos) return parts > 1 ? std::optional(total) : std::nullopt;
    at = colon + 1;
  }
}

/// "10:1" (a voltage ratio) as a gain in dB; 10:1 divides, 1:10 multiplies.
std::optional<double> ratio_gain_db(const std::string& text) {
  const std::size_t colon = text.find(':');
  if (colon == std::string::npos) return std::nullopt;
  const auto before = parse_number(text.substr(0, colon));
  const auto after = parse_number(text.substr(colon + 1));
  if (!before || !after || *before <= 0.0 || *after <= 0.0) return std::nullopt;
  return db_from_voltage_ratio(*after / *before);
}

/// What needs more than a factor; nullopt leaves it to the table of units.
std::optional<double> special_value(const std::string& text, Quantity quantity) {
  if (quantity == Quantity::duration && text.find(':') != std::string::npos) {
    const std::size_t unit = text.find_first_of(" hm");
    auto seconds = clock_seconds(text.substr(0, unit));
    // "1:30 h" is hours and minutes.
    const bool is_hours = unit != std::string::npos &&
                          lower_case(normalised_typing(text.substr(unit))).starts_with('h');
    if (seconds && is_hours && std::count(text.begin(), text.end(), ':') == 1) *seconds *= 60.0;
    return seconds;
  }
  if (quantity == Quantity::gain) return ratio_gain_db(text);
  const auto number = leading_number(text);
  if (!number) return std::nullopt;
  const std::string rest = lower_case(number->rest);
  if (quantity == Quantity::uncertainty) {
    if (rest == "%" && number->value >= 0.0)
      return db_from_power_ratio(1.0 + number->value / 100.0);
    if (rest == "db k=1" || rest == "k=1" || rest == "db (k=1)" || rest == "db, k=1")
      return 2.0 * number->value;
    if (rest == "db k=2" || rest == "k=2" || rest == "db, k=2") return number->value;
  }
  if (quantity == Quantity::limit && rest == "%" && number->value > 0.0)
    return db_from_voltage_ratio(number->value / 100.0);
  if (quantity == Quantity::vswr) {
    if (rest.empty() || rest == ":1") return number->value;
    if (rest == "db") {
      const double reflection = voltage_ratio_from_db(-std::abs(number->value));
      if (reflection < 0.999) return (1.0 + reflection) / (1.0 - reflection);
    }
  }
  return std::nullopt;
}

std::string understood_text(Quantity quantity, double value) {
  switch (quantity) {
    case Quantity::power:
      return "= " + engineering_text(value, "W") + ", " +
             number_text(to_dbm(Watt{value}).value, 2, true) + " dBm";
    case Quantity::uncertainty:
      return fmt::format("= \u00b1 {} dB, {} % of power", number_text(value, value < 0.095 ? 3 : 2),
                         number_text(100.0 * (power_ratio_from_db(value) - 1.0), 1));
    case Quantity::vswr: {
      const double reflection = (value - 1.0) / (value + 1.0);
      return reflection > 0.0 ? fmt::format("= {}, return loss {} dB", number_text(value, 2),
                                            number_text(-db_from_voltage_ratio(reflection), 1))
                              : "= a perfect match";
    }
    case Quantity::gain:
      return fmt::format("= {} dB, {}{} in voltage", number_text(value, 2, true),
                         value < 0 ? "\u00f7 " : "\u00d7 ",
                         number_text(voltage_ratio_from_db(std::abs(value)), 3));
    default:
      return "= " + quantity_text(quantity, value);
  }
}

}  // namespace

std::string quantity_unit(Quantity quantity) {
  return forms_of(quantity).unit;
}

std::string frequency_text(double hertz) {
  const double size = std::abs(hertz);
  if (size >= 1e9) return fmt::format("{:.10g} GHz", hertz / 1e9);
  if (size >= 1e6) return fmt::format("{:.10g} MHz", hertz / 1e6);
  if (size >= 1e3) return fmt::format("{:.10g} kHz", hertz / 1e3);
  return fmt::format("{:.6g} Hz", hertz);
}

std::string duration_text(double seconds) {
  if (!std::isfinite(seconds)) return "\u2014";
  if (seconds < 10.0 && seconds != std::floor(seconds)) return number_text(seconds, 1) + " s";
  const auto whole = static_cast<long long>(std::llround(seconds));
  if (whole < 60) return fmt::format("{} s", whole);
  if (whole < 3600) return fmt::format("{}:{:02} min", whole / 60, whole % 60);
  return fmt::format("{}:{:02}:{:02} h", whole / 3600, whole / 60 % 60, whole % 60);
}

std::string quantity_text(Quantity quantity, double value) {
  switch (quantity) {
    case Quantity::level:
      return number_text(value, 2, true) + " dBm";
    case Quantity::power:
      return engineering_text(value, "W");
    case Quantity::frequency:
      return frequency_text(value);
    case Quantity::duration:
      return duration_text(value);
    case Quantity::gain:
    case Quantity::limit:
      return number_text(value, 2) + " dB";
    case Quantity::uncertainty:
      return "\u00b1 " + number_text(value, value < 0.095 ? 3 : 2) + " dB";
    case Quantity::vswr:
      return number_text(value, 2);
    case Quantity::impedance:
      return fmt::format("{:g} \u03a9", value);
    case Quantity::relative:
      return fmt::format("{:g} ppm", value);
    case Quantity::current:
      return fmt::format("{:g} A", value);
    case Quantity::voltage:
      return fmt::format("{:g} V", value);
    case Quantity::temperature:
      return number_text(value, 1) + " \u00b0C";
    case Quantity::number:
      return fmt::format("{:.10g}", value);
    case Quantity::interval:
      return fmt::format("{} months", number_text(value, value == std::floor(value) ? 0 : 1));
  }
  return {};
}

TypedQuantity parse_quantity(std::string_view raw, Quantity quantity,
                             const QuantityOptions& options) {
  const QuantityForms& forms = forms_of(quantity);
  std::string text = normalised_typing(raw);
  if (text.empty()) refuse(raw, "nothing was typed", quantity);
  if (quantity == Quantity::level || quantity == Quantity::power) {
    LevelInputOptions level;
    level.impedance = options.impedance;
    level.volts_are_emf = options.volts_are_emf;
    level.is_two_tone = options.is_two_tone;
    level.default_unit = options.default_unit.empty() ? forms.unit : options.default_unit;
    const TypedLevel typed = parse_level(text, level);
    if (quantity == Quantity::level) {
      return {typed.level.value, "= " + number_text(typed.level.value, 2, true) + " dBm, " +
                                     engineering_text(to_watt(typed.level).value, "W")};
    }
    const double watt = to_watt(typed.level).value;
    return {watt, understood_text(quantity, watt)};
  }
  if (const std::string question = thousands_question(text); !question.empty())
    refuse(raw, question, quantity);
  // People write the sign that stands before an uncertainty.
  for (const std::string_view mark : {"\u00b1", "+/-", "+-"}) {
    if (quantity == Quantity::uncertainty && text.starts_with(mark))
      text = normalised_typing(text.substr(mark.size()));
  }
  std::optional<double> value = special_value(text, quantity);
  if (!value) {
    const auto number = leading_number(text);
    if (!number) refuse(raw, "this does not begin with a number", quantity);
    const std::string bare = options.default_unit.empty() ? forms.unit : options.default_unit;
    const std::string unit = lower_case(number->rest.empty() ? bare : number->rest);
    const auto found = std::find_if(forms.units.begin(), forms.units.end(),
                                    [&](const UnitFactor& u) { return u.name == unit; });
    if (found == forms.units.end()) {
      refuse(raw,
             unit.empty() ? "this is not one"
                          : "the unit \u201c" + number->rest + "\u201d does not belong here",
             quantity);
    }
    value = number->value * found->factor;
  }
  if (!std::isfinite(*value) || *value < forms.lowest || *value > forms.highest)
    refuse(raw, "it is out of range: " + forms.range, quantity);
  return {*value, understood_text(quantity, *value)};
}

}  // namespace heron
