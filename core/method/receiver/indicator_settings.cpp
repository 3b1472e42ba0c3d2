#include "core/method/receiver/indicator_settings.h"

#include "core/error.h"
#include "core/method/place_name.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

}  // namespace

IndicatorPlan indicator_plan(const Evidence& evidence) {
  IndicatorPlan plan;
  const json& from = own_settings(evidence.settings, kIndicatorSettings);
  try {
    plan.is_handbook = from.value("school", "50uv") == "handbook";
    plan.handbook_dbm = number_from(from, "handbook_dbm");
    plan.dark_segments = number_from(from, "dark_segments");
    if (const auto change = from.find("change"); change != from.end() && change->is_array())
      plan.change_db = std::pair(change->at(0).get<double>(), change->at(1).get<double>());
    if (const auto expanded = number_from(from, "u_db")) plan.u_db = *expanded / 2.0;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "dB") plan.limit = evidence.limit;
  return plan;
}

IndicatorStep indicator_step(const std::string& label) {
  IndicatorStep s;
  std::string reading = label;
  const auto last_part = [&] {
    const auto comma = reading.rfind(',');
    return comma == std::string::npos ? std::string()
                                      : lower_case(normalised_typing(reading.substr(comma + 1)));
  };
  const auto drop_last = [&] { reading.resize(reading.rfind(',')); };
  if (last_part() == "after") {
    s.is_after = true;
    drop_last();
  }
  if (const std::string words = last_part(); words.starts_with("att")) {
    const auto digits = words.find_first_of("0123456789");
    const auto number = leading_number(digits == std::string::npos ? "" : words.substr(digits));
    if (!number)
      throw InputError(label, "", "it does not say how much is switched in",
                       "Call it \u201c14.2 MHz, S9, attenuator 20 dB\u201d");
    s.attenuator_db = number->value;
    drop_last();
  }
  if (const auto comma = reading.rfind(','); comma != std::string::npos) {
    s.band = normalised_typing(reading.substr(0, comma));
    reading = reading.substr(comma + 1);
  }
  s.frequency_hz = named_frequency_hz(s.band);
  s.reading = parse_indicator(reading);
  return s;
}

namespace {

/// "S5 to S9+10"; nothing typed is null. InputError with what works.
json change_from_words(const std::string& text) {
  if (normalised_typing(text).empty()) return nullptr;
  const auto at = lower_case(text).find(" to ");
  if (at == std::string::npos)
    throw InputError("\u201c" + text + "\u201d", "", "it is no change", "Type it like S5 to S9+10");
  const IndicatorReading from = parse_indicator(text.substr(0, at));
  const IndicatorReading to = parse_indicator(text.substr(at + 4));
  if (from.is_segments || to.is_segments)
    throw InputError("\u201c" + text + "\u201d", "", "segments have no scale",
                     "Type it like S5 to S9+10");
  return {from.db, to.db};
}

std::string change_words(const json& kept) {
  return kept.is_array() && kept.size() == 2
             ? indicator_text(kept[0]) + " to " + indicator_text(kept[1])
             : std::string();
}

}  // namespace

json usual_indicator_settings() {
  return {{"school", "50uv"}, {"handbook_dbm", nullptr},  {"level_in", "dbm"},
          {"u_db", nullptr},  {"dark_segments", nullptr}, {"change", nullptr}};
}

std::string check_indicator_settings(const json& settings) {
  const json& own = own_settings(settings, kIndicatorSettings);
  if (own.value("school", "50uv") == "handbook" && !number_from(own, "handbook_dbm"))
    return "Type what the handbook calls S9, too.";
  return "";
}

std::string indicator_setting_words(const Evidence& evidence) {
  const IndicatorPlan plan = indicator_plan(evidence);
  return plan.is_handbook && plan.handbook_dbm ? number_text(*plan.handbook_dbm, 1) + " dBm"
                                               : "50 \u00b5V PD";
}

std::string_view bare_indicator_unit(const TypedField&, const json& settings) {
  const std::string in = own_settings(settings, kIndicatorSettings).value("level_in", "dbm");
  return in == "uv_emf" ? "uV emf" : in == "uv_pd" ? "uV pd" : "dBm";
}

std::vector<TypedField> indicator_fields() {
  return {{.quantity = kIndicatorLevel,
           .head = "Level",
           .hint = "At the input, or at the generator where there is a hook-up, rising from below "
                   "until it shows that",
           .asked = Quantity::level,
           .unit = "dBm",
           .width = 110,
           .csv = "level_dbm"},
          {.quantity = kGoesOut,
           .head = "Goes out at",
           .hint = "Of a segment: the level, falling, at which it goes out again",
           .asked = Quantity::level,
           .unit = "dBm",
           .width = 110,
           .csv = "goes_out_dbm"}};
}

std::vector<SettingField> indicator_setting_fields() {
  using Kind = SettingField::Kind;
  return {
      {.kind = Kind::choice,
       .key = "school",
       .head = "S9 is",
       .hint = "Both are always told; this one judges.",
       .choices = {{"50uv", "50 \u00b5V PD (5 \u00b5V from 30 MHz)"},
                   {"handbook", "the handbook\u2019s figure"}}},
      quantity_setting("handbook_dbm", "", "The handbook calls S9",
                       "In any unit; many mean EMF, twice the matched voltage.", Quantity::level,
                       "dBm", "Nothing", "50 uV emf"),
      {.kind = Kind::choice,
       .key = "level_in",
       .head = "A bare level means",
       .hint = "What stands on the generator\u2019s dial.",
       .choices = {{"dbm", "dBm"}, {"uv_emf", "\u00b5V EMF"}, {"uv_pd", "\u00b5V PD"}}},
      quantity_setting("u_db", "", "\u00b1 of a level and its reading", "Expanded, k = 2.",
                       Quantity::uncertainty, "dB", "\u00b1 0.7 dB, as usual", "1 dB"),
      {.kind = Kind::text,
       .key = "change",
       .head = "A change that was read off it",
       .hint = "\u201cS5 to S9+10\u201d: what it truly is, by the scale as it was measured.",
       .text = {.parse = change_from_words, .written = change_words, .understood = change_words}},
      quantity_setting("dark_segments", "", "Segments lit without signal",
                       "Noise lights them: they are not judged.", Quantity::number, "", "None",
                       "1")};
}

LimitField indicator_limit(const Evidence&) {
  LimitField f;
  f.head = "S9 within";
  f.hint = "Of what S9 is, either way.";
  f.label = "Within";
  f.example = "3 dB";
  f.asked = Quantity::gain;
  f.unit = "dB";
  f.sense = Sense::within;
  f.span = 10.0;
  f.usual = {{"3 dB, half a unit", Sense::within, 3.0, "dB", "", 10.0},
             {"6 dB, one unit", Sense::within, 6.0, "dB", "", 10.0}};
  return f;
}

}  // namespace heron
