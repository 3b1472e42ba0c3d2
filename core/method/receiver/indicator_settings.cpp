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
  if (const auto comma = label.rfind(','); comma != std::string::npos) {
    s.band = normalised_typing(label.substr(0, comma));
    reading = label.substr(comma + 1);
  }
  s.frequency_hz = named_frequency_hz(s.band);
  s.reading = parse_indicator(reading);
  return s;
}

json usual_indicator_settings() {
  return {{"school", "50uv"},
          {"handbook_dbm", nullptr},
          {"level_in", "dbm"},
          {"u_db", nullptr},
          {"dark_segments", nullptr}};
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
  return {{.kind = Kind::choice,
           .key = "school",
           .head = "S9 is",
           .hint = "Both are always told; this one judges.",
           .choices = {{"50uv", "50 \u00b5V PD (5 \u00b5V from 30 MHz)"},
                       {"handbook", "the handbook\u2019s figure"}}},
          quantity_setting("handbook_dbm", "", "The handbook calls S9",
                           "In any unit; many mean EMF, twice the matched voltage.",
                           Quantity::level, "dBm", "Nothing", "50 uV emf"),
          {.kind = Kind::choice,
           .key = "level_in",
           .head = "A bare level means",
           .hint = "What stands on the generator\u2019s dial.",
           .choices = {{"dbm", "dBm"}, {"uv_emf", "\u00b5V EMF"}, {"uv_pd", "\u00b5V PD"}}},
          quantity_setting("u_db", "", "\u00b1 of a level and its reading", "Expanded, k = 2.",
                           Quantity::uncertainty, "dB", "\u00b1 0.7 dB, as usual", "1 dB"),
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
