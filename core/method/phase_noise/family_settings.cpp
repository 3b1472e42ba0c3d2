#include "core/method/phase_noise/family_settings.h"

#include <array>

#include "core/method/phase_noise/noise_states.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

struct Weighting {
  std::string_view id;
  std::string_view words;
  NoiseWeighting::Kind kind;
  bool is_fm = false;
};
constexpr std::array<Weighting, 4> kWeightings{
    {{"neighbour", "a strong neighbour", NoiseWeighting::Kind::neighbour},
     {"ssb", "an SSB channel", NoiseWeighting::Kind::channel},
     {"fm", "an FM channel", NoiseWeighting::Kind::integrated, true},
     {"integrated", "all of it", NoiseWeighting::Kind::integrated}}};

constexpr const char* kBefore = "before";

json plain_words(const std::string& text) {
  return text.empty() ? json(nullptr) : json(text);
}
std::string words_kept(const json& kept) {
  return kept.is_string() ? kept.get<std::string>() : std::string();
}

}  // namespace

std::string setting_of_step(const std::string& label) {
  const std::string setting = state_of_step(label);
  const auto comma = label.find(',');
  const bool is_before = comma != std::string::npos &&
                         lower_case(label.substr(comma)).find(kBefore) != std::string::npos;
  return is_before ? setting + " " + kBefore : setting;
}

bool is_unmodified(const std::string& setting) {
  return setting.ends_with(std::string(" ") + kBefore);
}

FamilyPlan family_plan(const Evidence& evidence) {
  FamilyPlan plan;
  const json& from = own_settings(evidence.settings, kFamilySettings);
  try {
    read_noise_levels(from, plan.noise);
    const Weighting& w = named_or_first(kWeightings, from.value("weighting", "neighbour"));
    plan.weighting.kind = w.kind;
    plan.is_fm = w.is_fm;
    plan.weighting.offset_hz = number_from(from, "offset_hz").value_or(plan.weighting.offset_hz);
    constexpr double kWholeHigh = 100e3;
    const bool is_whole = w.kind == NoiseWeighting::Kind::integrated && !w.is_fm;
    plan.weighting.low_hz = number_from(from, "low_hz").value_or(is_whole ? 100.0 : 300.0);
    plan.weighting.high_hz = number_from(from, "high_hz").value_or(is_whole ? kWholeHigh : 3000.0);
    plan.full_range = number_from(from, "full_range");
    if (from.contains("in_use")) plan.in_use = words_kept(from.at("in_use"));
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == weighting_unit(plan)) plan.limit = evidence.limit;
  return plan;
}

json usual_family_settings() {
  return {{"weighting", "neighbour"}, {"offset_hz", nullptr},  {"low_hz", nullptr},
          {"high_hz", nullptr},       {"in_use", nullptr},     {"full_range", nullptr},
          {"scaled_hz", nullptr},     {"carrier_hz", nullptr}, {"scale_db", nullptr},
          {"repeats_db", nullptr}};
}

std::string check_family_settings(const json& settings) {
  const json& own = own_settings(settings, kFamilySettings);
  const auto low = number_from(own, "low_hz");
  const auto high = number_from(own, "high_hz");
  return low && high && *low >= *high ? "The range ends before it begins." : "";
}

std::string weighting_unit(const FamilyPlan& plan) {
  if (plan.is_fm) return "Hz";
  switch (plan.weighting.kind) {
    case NoiseWeighting::Kind::neighbour:
      return "dBc/Hz";
    case NoiseWeighting::Kind::channel:
      return "dBc";
    case NoiseWeighting::Kind::integrated:
      break;
  }
  return "\u00b0";
}

std::string weighting_words(const FamilyPlan& plan) {
  const std::string range =
      frequency_text(plan.weighting.low_hz) + " to " + frequency_text(plan.weighting.high_hz);
  if (plan.is_fm) return "FM channel, " + range;
  switch (plan.weighting.kind) {
    case NoiseWeighting::Kind::neighbour:
      return "neighbour at " + frequency_text(plan.weighting.offset_hz);
    case NoiseWeighting::Kind::channel:
      return "SSB channel, " + range;
    case NoiseWeighting::Kind::integrated:
      break;
  }
  return "RMS phase, " + range;
}

std::string family_setting_words(const Evidence& evidence) {
  const FamilyPlan plan = family_plan(evidence);
  if (plan.is_fm) return "FM";
  switch (plan.weighting.kind) {
    case NoiseWeighting::Kind::neighbour:
      return frequency_text(plan.weighting.offset_hz);
    case NoiseWeighting::Kind::channel:
      return "SSB";
    case NoiseWeighting::Kind::integrated:
      break;
  }
  return "all of it";
}

std::vector<SettingField> family_setting_fields() {
  using Kind = SettingField::Kind;
  constexpr const char* kRange = "Where it counts";
  constexpr const char* kLevels = "Levels";
  std::vector<SettingChoice> choices;
  for (const Weighting& w : kWeightings) choices.push_back({w.id, w.words});
  SettingField full = quantity_setting("full_range", kLevels, "Range of the setting",
                                       "What 100 % is, in the unit that its steps are named in.",
                                       Quantity::number, "", "The highest step", "4");
  std::vector<SettingField> fields{
      {.kind = Kind::choice,
       .key = "weighting",
       .head = "Weighted by",
       .hint = "What counts in your use",
       .choices = std::move(choices)},
      frequency_setting("offset_hz", kRange, "Neighbour at",
                        "How far away the nearest strong one is.", "20 kHz, as usual", "20 kHz",
                        "Hz"),
      frequency_setting("low_hz", kRange, "Channel from",
                        "Lower end of a channel, or of what is summed.", "As usual for it",
                        "300 Hz", "Hz"),
      frequency_setting("high_hz", kRange, "Channel to", "Upper end.", "As usual for it", "3 kHz",
                        "Hz"),
      {.kind = Kind::text,
       .key = "in_use",
       .head = "Setting in use",
       .hint = "Named as its step: all others are gains and losses against it",
       .text = {.parse = plain_words, .written = words_kept, .understood = words_kept}},
      full};
  for (SettingField& f : noise_level_fields()) fields.push_back(std::move(f));
  return fields;
}

LimitField family_limit(const Evidence& evidence) {
  const FamilyPlan plan = family_plan(evidence);
  LimitField f;
  f.head = "At most";
  f.hint = "For " + weighting_words(plan) + ".";
  f.label = "Limit";
  f.unit = weighting_unit(plan);
  f.sense = Sense::at_most;
  const bool is_level = f.unit == "dBc/Hz" || f.unit == "dBc";
  f.asked = f.unit == "Hz" ? Quantity::frequency : Quantity::number;
  f.example = is_level ? "-90" : f.unit == "Hz" ? "10 Hz" : "1.0";
  f.span = is_level ? 20.0 : f.unit == "Hz" ? 10.0 : 1.0;
  return f;
}

}  // namespace heron
