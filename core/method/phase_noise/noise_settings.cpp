#include "core/method/phase_noise/noise_settings.h"

#include <cmath>
#include <sstream>

#include "core/error.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

json typed_to_json(const std::vector<TypedNoise>& all) {
  json out = json::array();
  for (const TypedNoise& t : all) out.push_back({t.state, t.offset_hz, t.l_dbc_hz});
  return out;
}

std::vector<TypedNoise> typed_from_json(const json& from) {
  std::vector<TypedNoise> all;
  if (!from.is_array()) return all;
  for (const json& one : from) all.push_back({one.at(0), one.at(1), one.at(2)});
  return all;
}

std::string written_noise(const json& kept) {
  std::string text;
  for (const TypedNoise& t : typed_from_json(kept))
    text += (t.state.empty() ? "" : t.state + ": ") + frequency_text(t.offset_hz) + " " +
            number_text(t.l_dbc_hz, 1) + " dBc/Hz\n";
  return text;
}

}  // namespace

std::vector<TypedNoise> parse_typed_noise(const std::string& text) {
  std::vector<TypedNoise> all;
  std::istringstream lines(text);
  std::size_t number = 0;
  for (std::string line; std::getline(lines, line);) {
    ++number;
    std::string typed = normalised_typing(line);
    if (typed.empty()) continue;
    const auto refuse = [&](const std::string& why) {
      throw InputError("line " + std::to_string(number), "", why,
                       "Type it like \u201cbefore: 10 kHz \u221280 dBc/Hz\u201d");
    };
    TypedNoise t;
    if (const auto colon = typed.find(':'); colon != std::string::npos) {
      t.state = normalised_typing(typed.substr(0, colon));
      typed = normalised_typing(typed.substr(colon + 1));
    }
    if (const auto dbc = lower_case(typed).find("db"); dbc != std::string::npos)
      typed = normalised_typing(typed.substr(0, dbc));
    const auto cut = typed.find_last_of(" \t");
    const auto level =
        cut != std::string::npos ? parse_number(typed.substr(cut + 1)) : std::nullopt;
    if (!level) refuse("it has no offset and level");
    QuantityOptions options;
    options.default_unit = "Hz";
    t.offset_hz = parse_quantity(typed.substr(0, cut), Quantity::frequency, options).value;
    t.l_dbc_hz = *level;
    if (!(t.offset_hz > 0.0)) refuse("its offset is not above 0");
    if (t.l_dbc_hz > 0.0 || t.l_dbc_hz < -250.0) refuse("no phase noise is like that");
    all.push_back(t);
  }
  return all;
}

NoisePlan noise_plan(const Evidence& evidence) {
  NoisePlan plan;
  const json& from = own_settings(evidence.settings, kNoiseSettings);
  try {
    read_noise_levels(from, plan);
    plan.low_hz = number_from(from, "low_hz");
    plan.high_hz = number_from(from, "high_hz");
    plan.fm_low_hz = number_from(from, "fm_low_hz").value_or(plan.fm_low_hz);
    plan.fm_high_hz = number_from(from, "fm_high_hz").value_or(plan.fm_high_hz);
    plan.fm_limit_hz = number_from(from, "fm_limit_hz");
    plan.shows_am = from.value("shows_am", false);
    if (from.contains("typed")) plan.typed = typed_from_json(from.at("typed"));
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "\u00b0") plan.limit = evidence.limit;
  return plan;
}

json usual_noise_settings() {
  return {{"scaled_hz", nullptr},   {"carrier_hz", nullptr}, {"low_hz", nullptr},
          {"high_hz", nullptr},     {"fm_low_hz", nullptr},  {"fm_high_hz", nullptr},
          {"fm_limit_hz", nullptr}, {"repeats_db", nullptr}, {"scale_db", nullptr},
          {"shows_am", false},      {"typed", json::array()}};
}

std::string check_noise_settings(const json& settings) {
  const json& own = own_settings(settings, kNoiseSettings);
  const auto is_backwards = [&](const char* low, const char* high) {
    const auto a = number_from(own, low);
    const auto b = number_from(own, high);
    return a && b && *a >= *b;
  };
  if (is_backwards("low_hz", "high_hz")) return "The counted range ends before it begins.";
  if (is_backwards("fm_low_hz", "fm_high_hz")) return "The audio range ends before it begins.";
  return "";
}

std::string noise_setting_words(const Evidence& evidence) {
  const NoisePlan plan = noise_plan(evidence);
  return plan.scaled_hz ? frequency_text(*plan.scaled_hz) : "the highest carrier";
}

std::vector<SettingField> noise_level_fields() {
  constexpr const char* kLevels = "Levels";
  return {frequency_setting("scaled_hz", "", "Scaled to",
                            "The frequency that all is told for: a multiplication by N raises "
                            "phase noise by 20 lg N.",
                            "The highest carrier", "5760 MHz", "MHz"),
          frequency_setting("carrier_hz", kLevels, "Carrier",
                            "Of recordings and tables that do not say their own; a step whose "
                            "name says a frequency says it itself.",
                            "As they say", "1440 MHz", "MHz"),
          quantity_setting("scale_db", kLevels, "Scale, standard",
                           "How far off all levels may be together.", Quantity::gain, "dB",
                           "0.2 dB, as usual", "0.2 dB"),
          quantity_setting("repeats_db", kLevels, "Repeatability, standard",
                           "How well the same, measured again, agrees with itself.", Quantity::gain,
                           "dB", "0.2 dB, as usual", "0.2 dB")};
}

void read_noise_levels(const json& from, NoisePlan& plan) {
  plan.scaled_hz = number_from(from, "scaled_hz");
  plan.carrier_hz = number_from(from, "carrier_hz");
  plan.repeats_db = number_from(from, "repeats_db").value_or(plan.repeats_db);
  plan.scale_db = number_from(from, "scale_db").value_or(plan.scale_db);
}

std::vector<SettingField> noise_setting_fields() {
  constexpr const char* kCounted = "Counted range";
  constexpr const char* kFm = "Residual FM";
  std::vector<SettingField> fields = noise_level_fields();
  for (SettingField& f : std::vector<SettingField>{
           frequency_setting("low_hz", kCounted, "From", "RMS phase is summed from this offset.",
                             "Where the curve begins", "100 Hz", "Hz"),
           frequency_setting("high_hz", kCounted, "To", "To this offset.", "Where the curve ends",
                             "100 kHz", "Hz"),
           frequency_setting("fm_low_hz", kFm, "From", "Audio range of the receiver that hears it.",
                             "300 Hz, as usual", "300 Hz", "Hz"),
           frequency_setting("fm_high_hz", kFm, "To", "To this frequency.", "3 kHz, as usual",
                             "3 kHz", "Hz"),
           frequency_setting("fm_limit_hz", kFm, "At most", "More than this is too much.",
                             "It is not judged", "10 Hz", "Hz")})
    fields.push_back(std::move(f));
  fields.push_back({.kind = SettingField::Kind::flag,
                    .key = "shows_am",
                    .head = "Amplitude noise is shown too",
                    .hint = "Of recordings: an analyser shows both together"});
  fields.push_back(
      {.kind = SettingField::Kind::text,
       .key = "typed",
       .head = "Points read off a screen",
       .hint = "A line each: state, offset and level, \u201cbefore: 10 kHz \u221280 dBc/Hz\u201d.",
       .text = {
           .parse = [](const std::string& text) { return typed_to_json(parse_typed_noise(text)); },
           .written = written_noise,
           .understood =
               [](const json& kept) {
                 return std::to_string(typed_from_json(kept).size()) + " points";
               }},
       .is_evidence = true});
  return fields;
}

LimitField noise_limit(const Evidence&) {
  LimitField f;
  f.head = "RMS phase at most";
  f.hint = "Over the counted range, scaled as the sheet says.";
  f.label = "Limit";
  f.example = "1.0";
  f.asked = Quantity::number;
  f.unit = "\u00b0";
  f.sense = Sense::at_most;
  f.span = 1.0;
  f.span_share = 0.5;
  return f;
}

}  // namespace heron
