#include "core/method/frequency/frequency_fields.h"

#include "core/method/live_quantity.h"
#include "core/method/quantity_setting.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

constexpr const char* kLogGroup = "Live log";
constexpr double kUsualToneHz = 1000.0;

}  // namespace

TypedField counted_field(ReadingRole role, std::string_view head, std::string_view hint) {
  return {.quantity = kCountedFrequency,
          .role = role,
          .head = head,
          .hint = hint,
          .asked = Quantity::frequency,
          .unit = "Hz",
          .typed_unit = "MHz",
          .width = 140,
          .live = role == ReadingRole::at ? kCountedFrequency : "",
          .csv = role == ReadingRole::at ? "frequency_hz" : ""};
}

LimitField ppm_limit_field(std::string_view head, std::string_view hint, std::string_view example,
                           Sense sense) {
  LimitField f;
  f.head = head;
  f.hint = hint;
  f.label = "Limit";
  f.example = example;
  f.asked = Quantity::relative;
  f.unit = "ppm";
  f.sense = sense;
  f.span = 0.0;
  f.span_share = 1.0;
  return f;
}

std::optional<Limit> ppm_limit(const Evidence& evidence, Sense sense) {
  if (!evidence.limit || evidence.limit->unit != "ppm") return std::nullopt;
  Limit limit = *evidence.limit;
  limit.convention.clear();
  limit.sense = sense;
  return limit;
}

std::optional<Remark> other_limit_remark(const Evidence& evidence, const char* what) {
  if (!evidence.limit || evidence.limit->unit == "ppm") return std::nullopt;
  return Remark{"limit_unit", Severity::caution,
                "The limit is in " + evidence.limit->unit + ": it judges no " + what + ".",
                "Choose a limit in ppm or ppb"};
}

std::vector<SettingField> reference_fields(std::string_view nominal_when_open) {
  return {quantity_setting("nominal_hz", "", "Nominal",
                           "What it should be: of the oscillator that is counted, or the "
                           "carrier\u2019s true frequency",
                           Quantity::frequency, "Hz", nominal_when_open, "10 MHz"),
          {.key = "way",
           .head = "Read by",
           .hint = "What was logged",
           .choices = {{"counter", "counter"},
                       {"usb", "tone of a carrier in USB"},
                       {"lsb", "tone of a carrier in LSB"}}},
          quantity_setting("tone_hz", "", "Tone when right",
                           "Carrier less dial: the tone that a receiver without error would give.",
                           Quantity::frequency, "Hz", "1000 Hz, as usual", "1000 Hz")};
}

DriftReference reference_from(const nlohmann::json& own) {
  DriftReference reference;
  reference.nominal_hz = number_from(own, "nominal_hz");
  const std::string way = own.value("way", "counter");
  if (way == "counter") return reference;
  reference.tone_hz = number_from(own, "tone_hz").value_or(kUsualToneHz);
  reference.is_upper = way != "lsb";
  return reference;
}

std::vector<SettingField> log_fields(std::string_view usual_every, std::string_view usual_length) {
  return {quantity_setting("every_s", kLogGroup, "Read every", "Of a log that is taken here.",
                           Quantity::duration, "s", usual_every, "10 s"),
          quantity_setting("length_s", kLogGroup, "For", "It can be ended at any time before.",
                           Quantity::duration, "s", usual_length, "90 min")};
}

}  // namespace heron
