#include "core/quantity/parse_level.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

[[noreturn]] void refuse(std::string_view typed, const std::string& reason) {
  throw InputError("\u201c" + std::string(typed) + "\u201d", "", reason,
                   "Type a level such as 30 W, \u221273 dBm or 12.7 mV");
}

std::optional<double> prefix_factor(char c) {
  switch (c) {
    case 'a':
      return 1e-18;
    case 'f':
      return 1e-15;
    case 'p':
      return 1e-12;
    case 'n':
      return 1e-9;
    case 'u':
      return 1e-6;
    case 'm':
      return 1e-3;
    case 'k':
    case 'K':
      return 1e3;
    case 'M':
      return 1e6;
    default:
      return std::nullopt;
  }
}

enum class Waveform { rms, peak, peak_to_peak };

struct Unit {
  enum Kind { watt, volt, dbm, dbw, dbuv, dbmv } kind = watt;
  double factor = 1.0;
  Waveform waveform = Waveform::rms;
  std::optional<bool> emf;
  bool is_mean = false;
};

/// Takes trailing words ("rms", "pp", "emf", "pd", "pep") off the unit.
bool take_suffix(std::string& unit, std::string_view word) {
  const std::string low = lower_case(unit);
  if (low.size() < word.size() || !low.ends_with(word)) return false;
  unit.resize(unit.size() - word.size());
  while (!unit.empty() && (unit.back() == ' ' || unit.back() == '_')) unit.pop_back();
  return true;
}

std::optional<Unit> parse_unit(std::string text) {
  Unit unit;
  if (take_suffix(text, "emf"))
    unit.emf = true;
  else if (take_suffix(text, "pd"))
    unit.emf = false;
  if (take_suffix(text, "mean") || take_suffix(text, "average"))
    unit.is_mean = true;
  else if (take_suffix(text, "rms") || take_suffix(text, "pep"))
    unit.waveform = Waveform::rms;
  else if (take_suffix(text, "peak") || take_suffix(text, "pk"))
    unit.waveform = Waveform::peak;
  else if (take_suffix(text, "pp") || take_suffix(text, "p-p"))
    unit.waveform = Waveform::peak_to_peak;

  const std::string low = lower_case(text);
  if (low == "dbm")
    unit.kind = Unit::dbm;
  else if (low == "dbw")
    unit.kind = Unit::dbw;
  else if (low == "dbuv")
    unit.kind = Unit::dbuv;
  else if (low == "dbmv")
    unit.kind = Unit::dbmv;
  else if (!low.empty() && (low.back() == 'w' || low.back() == 'v')) {
    unit.kind = low.back() == 'w' ? Unit::watt : Unit::volt;
    if (low.size() == 2) {
      const auto factor = prefix_factor(text.front());
      if (!factor) return std::nullopt;
      unit.factor = *factor;
    } else if (low.size() > 2) {
      return std::nullopt;
    }
  } else {
    return std::nullopt;
  }
  if (unit.waveform != Waveform::rms && unit.kind != Unit::volt) return std::nullopt;
  if (unit.emf.value_or(false) && (unit.kind == Unit::watt || unit.kind == Unit::dbw)) {
    return std::nullopt;
  }
  return unit;
}

std::optional<TypedLevel> parse_s_units(const std::string& text, const LevelInputOptions& options) {
  if (text.size() < 2 || (text[0] != 'S' && text[0] != 's')) return std::nullopt;
  const auto units = leading_number(text.substr(1));
  if (!units || units->value < 0.0 || units->value > 9.0) return std::nullopt;
  double over = 0.0;
  if (!units->rest.empty()) {
    const auto extra = leading_number(units->rest);
    if (!extra || units->value != 9.0) return std::nullopt;
    const std::string unit = lower_case(extra->rest);
    if (!unit.empty() && unit != "db") return std::nullopt;
    over = extra->value;
  }
  TypedLevel typed;
  typed.level = from_s_units(units->value, over);
  typed.impedance = options.impedance;
  typed.understood =
      s_units_text(typed.level) + " below 30 MHz = " + number_text(typed.level.value, 2) + " dBm";
  return typed;
}

}  // namespace

TypedLevel parse_level(std::string_view raw, const LevelInputOptions& options) {
  const std::string text = normalised_typing(raw);
  if (text.empty()) refuse(raw, "nothing was typed");
  if (!(options.impedance.value > 0.0) || !std::isfinite(options.impedance.value)) {
    refuse(raw, "the impedance must be more than 0 \u03a9");
  }
  if (auto s_units = parse_s_units(text, options)) return *s_units;

  if (const std::string question = thousands_question(text); !question.empty())
    refuse(raw, question);
  const auto number = leading_number(text);
  if (!number) refuse(raw, "this does not begin with a number");
  const std::string unit_text = number->rest.empty() ? options.default_unit : number->rest;
  if (unit_text.empty()) refuse(raw, "the unit is missing");
  const auto unit = parse_unit(unit_text);
  if (!unit) refuse(raw, "the unit \u201c" + unit_text + "\u201d is not one of a level");

  TypedLevel typed;
  typed.impedance = options.impedance;
  const double value = number->value * unit->factor;
  const bool is_voltage =
      unit->kind == Unit::volt || unit->kind == Unit::dbuv || unit->kind == Unit::dbmv;
  typed.emf = unit->emf.value_or(is_voltage && options.volts_are_emf);

  std::string quantity;
  if (unit->kind == Unit::dbm || unit->kind == Unit::dbw) {
    // A generator dial in dBm that means EMF shows 6.02 dB more than it delivers.
    typed.level = Dbm{value + (unit->kind == Unit::dbw ? 30.0 : 0.0) -
                      (typed.emf ? db_from_voltage_ratio(2.0) : 0.0)};
    quantity = engineering_text(to_watt(typed.level).value, "W");
  } else {
    if (is_voltage) {
      double volts = value;
      if (unit->kind == Unit::dbuv) volts = 1e-6 * voltage_ratio_from_db(value);
      if (unit->kind == Unit::dbmv) volts = 1e-3 * voltage_ratio_from_db(value);
      if (unit->waveform == Waveform::peak) volts /= std::numbers::sqrt2;
      if (unit->waveform == Waveform::peak_to_peak) volts /= 2.0 * std::numbers::sqrt2;
      if (!(volts > 0.0)) refuse(raw, "a level must be more than 0");
      const VoltPd pd = typed.emf ? to_pd(VoltEmf{volts}) : VoltPd{volts};
      typed.level = to_dbm(to_watt(pd, options.impedance));
      quantity = engineering_text(pd.value, "V") + " rms in " +
                 engineering_text(options.impedance.value, "\u03a9");
    } else {
      if (!(value > 0.0)) refuse(raw, "a level must be more than 0");
      typed.level = to_dbm(Watt{value});
      quantity = engineering_text(value, "W");
    }
  }
  if (unit->is_mean && options.is_two_tone) {
    typed.level = typed.level + Db{db_from_power_ratio(2.0)};
    quantity += " mean, peak envelope";
  }
  if (!std::isfinite(typed.level.value) || std::abs(typed.level.value) > 400.0) {
    refuse(raw, "this level is not plausible on a bench");
  }
  typed.understood = quantity + " = " + number_text(typed.level.value, 2) + " dBm";
  return typed;
}

}  // namespace heron
