#include "core/method/receiver/conversion_method.h"

#include "core/method/quantity_setting.h"
#include "core/method/receiver/conversion.h"
#include "core/method/receiver/convert_run.h"
#include "core/method/receiver/if_level.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

using nlohmann::json;

std::vector<TypedField> conversion_fields() {
  const auto level = [](const char* quantity, const char* head, const char* hint, const char* csv) {
    TypedField f;
    f.quantity = quantity;
    f.head = head;
    f.hint = hint;
    f.asked = Quantity::level;
    f.unit = "dBm";
    f.width = 104;
    f.csv = csv;
    return f;
  };
  return {
      level(kConversionIn, "Input",
            "At the input, or at the generator where there is a hook-up; EMF, PD or dBm", "in_dbm"),
      level(kConversionOut, "At the IF", "What the meter at the IF shows, in 50 \u03a9", "out_dbm"),
      level(kConversionLowIn, "Input, lower", "Once more, 10 dB lower", "low_in_dbm"),
      level(kConversionLowOut, "IF, lower", "What the meter shows then", "low_out_dbm")};
}

std::vector<SettingField> conversion_setting_fields() {
  return {
      quantity_setting("probe", "", "Probe, n : 1", "A 10:1 probe takes 20 dB off; it is put back.",
                       Quantity::number, "", "None, 1 : 1", "10"),
      quantity_setting("loading_db", "", "What the probe loses by loading", "It is put back, too.",
                       Quantity::gain, "dB", "Nothing", "0.5 dB"),
      frequency_setting("if_hz", "Automatic steps", "IF",
                        "Where a spectrum analyser reads the level at the IF.",
                        "A power meter, which reads everything", "9 MHz", ""),
      quantity_setting("level_dbm", "Automatic steps", "Level at the input",
                       "The higher of the two that are measured; the lower one is 10 dB less.",
                       Quantity::level, "dBm", "\u221250 dBm, as usual", "-50 dBm"),
      quantity_setting("full_scale_dbm", "Recordings", "Full scale of the recorder",
                       "The level at its input of a sinusoid that just fills it.", Quantity::level,
                       "dBm", "Not known: a recording tells no gain", "-10 dBm"),
      quantity_setting("u_in_db", "", "\u00b1 of the input", "Expanded, k = 2.",
                       Quantity::uncertainty, "dB", "\u00b1 0.9 dB, as usual", "0.9 dB"),
      quantity_setting("u_out_db", "", "\u00b1 at the IF", "Expanded, k = 2.",
                       Quantity::uncertainty, "dB", "\u00b1 1 dB, as usual", "1 dB")};
}

json usual_conversion_settings() {
  return {{"probe", nullptr},     {"loading_db", nullptr},     {"if_hz", nullptr},
          {"level_dbm", nullptr}, {"full_scale_dbm", nullptr}, {"u_in_db", nullptr},
          {"u_out_db", nullptr}};
}

std::string probe_words(const Evidence& evidence) {
  const auto probe = number_from(own_settings(evidence.settings, kConversionSettings), "probe");
  return probe ? number_text(*probe, 0) + " : 1" : "none";
}

std::string check_conversion_settings(const json& settings) {
  const auto probe = number_from(own_settings(settings, kConversionSettings), "probe");
  return probe && !(*probe >= 1.0) ? "A probe divides: type 10 for 10 : 1." : "";
}

LimitField conversion_limit(const Evidence&) {
  LimitField f;
  f.head = "Gain, at least";
  f.hint = "From the input to the IF, on every band.";
  f.label = "Limit";
  f.example = "34 dB";
  f.asked = Quantity::gain;
  f.unit = "dB";
  f.sense = Sense::at_least;
  return f;
}

}  // namespace

const Method& conversion_method() {
  static const Method method{
      .id = "conversion",
      .step_head = "Band",
      .step_example = "14.2 MHz",
      .fields = conversion_fields(),
      .settings_key = kConversionSettings,
      .settings = conversion_setting_fields(),
      .usual_settings = usual_conversion_settings,
      .setting_words = probe_words,
      .check = check_conversion_settings,
      .limit = conversion_limit,
      .caution =
          "Inside a set with valves mains and high voltage are in reach, and stay there when "
          "it is off: connect the probe with the plug pulled, or leave it to who is "
          "licensed. Local codes come first.",
      .caution_head = "Before you open it",
      .record = "if_level",
      .record_format = kIfLevelFormat,
      .analyse = [](const CaptureOpener& open, const TakeContext&, const Progress& progress,
                    const std::stop_token& stop) -> json {
        return to_json(if_level(open, progress, stop));
      },
      .read_record = read_if_level,
      .is_typed_first = true,
      .step_hint =
          "The band by its frequency; of a recording of the IF the input is typed, and both levels "
          "may be in it, one after the other",
      .plan = plan_receiver_bands,
      .run = convert_run,
      .evaluate = evaluate_conversion};
  return method;
}

}  // namespace heron
