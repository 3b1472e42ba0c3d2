#include "core/method/receiver/sensitivity_settings.h"

#include <array>
#include <cmath>

#include "core/error.h"
#include "core/method/quantity_setting.h"
#include "core/method/receiver/audio_typed.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

struct Named {
  std::string_view id;
  std::string_view words;
};
constexpr std::array<Named, 3> kPlaces{
    {{"socket", "antenna socket"}, {"dummy", "dummy antenna"}, {"inner", "inner point"}}};
constexpr std::array<Named, 4> kImpedances{{{"50", "50 \u03a9"},
                                            {"other", "another impedance"},
                                            {"high", "high"},
                                            {"unknown", "unknown"}}};
constexpr std::array<Named, 4> kModes{{{"ssb", "SSB"}, {"cw", "CW"}, {"am", "AM"}, {"fm", "FM"}}};
constexpr double kEmfDb = 6.0206;

InjectionPoint injection_point(const json& from) {
  InjectionPoint p;
  const Named& place = named_or_first(kPlaces, from.value("input", ""));
  const Named& impedance = named_or_first(kImpedances, from.value("impedance", ""));
  p.place = place.words;
  p.impedance = impedance.words;
  p.id = std::string(place.id) + ", " + std::string(impedance.id);
  if (impedance.id == "high") {
    p.shift_db = kEmfDb;
  } else if (impedance.id == "unknown") {
    // From matched to open: half of that either way.
    p.shift_db = kEmfDb / 2.0;
    p.u_db = u_rectangular(kEmfDb / 2.0);
  } else if (impedance.id == "other") {
    const double z = number_from(from, "impedance_ohm").value_or(50.0);
    p.shift_db = db_from_voltage_ratio(2.0 * z / (z + 50.0));
    p.impedance = engineering_text(z, "\u03a9", 3);
    p.id += " " + p.impedance;
  }
  return p;
}

bool reads_db(const json& own) {
  return own.value("meter", "true_rms") == "db";
}

Reading read_audio(const TypedField& field, const std::string& typed, const std::string&) {
  Reading r;
  r.quantity = field.quantity;
  r.role = field.role;
  r.typed = typed;
  r.unit = "dB";
  const std::string words = lower_case(normalised_typing(typed));
  if (field.quantity == kAudioOn && (words == "nothing" || words == "none" || words == "deaf")) {
    r.bound = Bound::lower;  // it would take more
    return r;
  }
  const TypedAudio audio = parse_audio(typed, false);
  r.value = audio.level.db;
  r.u = audio.level.u_db;
  return r;
}

}  // namespace

ReceiverPlan receiver_plan(const Evidence& evidence) {
  ReceiverPlan plan;
  const json& from = own_settings(evidence.settings, kSensitivitySettings);
  try {
    plan.point = injection_point(from);
    plan.bandwidth_hz = number_from(from, "bandwidth_hz");
    plan.reads_db = reads_db(from);
    if (from.value("meter", "true_rms") == "average") plan.sensitivity.meter = AudioMeter::average;
    plan.is_ten_db = from.value("procedure", "fixed_level") == "fixed_ratio";
    plan.mode = named_or_first(kModes, from.value("mode", "")).words;
    plan.depth = number_from(from, "depth").value_or(plan.depth);
    plan.modulation_hz = number_from(from, "modulation_hz").value_or(plan.modulation_hz);
    plan.listen_s = number_from(from, "listen_s").value_or(plan.listen_s);
    plan.right_axis = from.value(kRightAxis, "pd");
    plan.generator_ppm = number_from(from, "generator_ppm");
    plan.dial_step_hz = number_from(from, "dial_step_hz");
    if (const auto expanded = number_from(from, "u_level_db")) plan.u_level_db = *expanded / 2.0;
    if (const auto expanded = number_from(from, "u_audio_db"))
      plan.sensitivity.u_audio_db = *expanded / 2.0;
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  if (evidence.limit && evidence.limit->unit == "dBm") {
    plan.sensitivity.limit = evidence.limit;
    plan.sensitivity.limit->convention.clear();  // PD is how all levels are told here
  }
  return plan;
}

json usual_sensitivity_settings() {
  return {{"procedure", "fixed_level"},
          {"level_in", "dbm"},
          {"meter", "true_rms"},
          {"input", "socket"},
          {"impedance", "50"},
          {"impedance_ohm", nullptr},
          {"mode", "ssb"},
          {"bandwidth_hz", nullptr},
          {"u_level_db", nullptr},
          {"u_audio_db", nullptr},
          {"listen_s", nullptr},
          {"depth", nullptr},
          {"modulation_hz", nullptr},
          {"generator_ppm", nullptr},
          {"dial_step_hz", nullptr},
          {kRightAxis, "pd"}};
}

std::string check_sensitivity_settings(const json& settings) {
  const json& own = own_settings(settings, kSensitivitySettings);
  if (own.value("impedance", "50") == "other" && !number_from(own, "impedance_ohm"))
    return "Type the impedance at the input, too.";
  return "";
}

std::string sensitivity_setting_words(const Evidence& evidence) {
  const ReceiverPlan plan = receiver_plan(evidence);
  return plan.point.place + ", " + plan.point.impedance;
}

std::string_view bare_receiver_unit(const TypedField& field, const json& settings) {
  const json& own = own_settings(settings, kSensitivitySettings);
  if (field.quantity == kInputReading || field.quantity == kSpecifiedSensitivity) {
    const std::string in = own.value("level_in", "dbm");
    return in == "uv_emf" ? "uV emf" : in == "uv_pd" ? "uV pd" : "dBm";
  }
  if (field.quantity == kAudioOff || field.quantity == kAudioOn || field.quantity == kAudioHalf ||
      field.quantity == kAudioZero)
    return reads_db(own) ? "dB" : "mV";
  return field.typed_unit.empty() ? field.unit : field.typed_unit;
}

std::vector<TypedField> sensitivity_fields() {
  using Kind = TypedField::Kind;
  const auto audio = [](const char* quantity, const char* head, const char* hint, int width) {
    TypedField f;
    f.quantity = quantity;
    f.head = head;
    f.hint = hint;
    f.asked = Quantity::voltage;
    f.unit = "dB";
    f.typed_unit = "mV";
    f.width = width;
    f.read = read_audio;
    return f;
  };
  return {
      {.kind = Kind::condition,
       .quantity = kReceiverFrequency,
       .head = "Frequency",
       .hint = "Of the generator; nothing is needed where the step is called by it",
       .asked = Quantity::frequency,
       .unit = "Hz",
       .typed_unit = "MHz",
       .width = 84,
       .csv = "frequency_hz"},
      {.quantity = kInputReading,
       .head = "Level",
       .hint = "At the generator, or at the input where there is no hook-up; EMF, PD or dBm",
       .asked = Quantity::level,
       .unit = "dBm",
       .width = 92,
       .csv = "level_dbm"},
      audio(kAudioOff, "Noise only",
            "Audio without the signal, volume as it stands: several readings, or 46.9 to 51.3",
            132),
      audio(kAudioOn, "Tone and noise",
            "Audio with the signal, same volume; \u201cnothing\u201d if none is heard", 132),
      audio(kAudioHalf, "At half the input",
            "Audio with half the input voltage (6.02 dB less): tells whether it is linear", 116),
      audio(kAudioZero, "Volume down",
            "Audio with the volume turned down: what the set-up picks up by itself", 96),
      {.kind = Kind::condition,
       .quantity = kBirdie,
       .head = "Birdie, dB",
       .hint = "Noise at the test frequency over that 1 to 3 kHz beside it, nothing connected",
       .asked = Quantity::gain,
       .unit = "dB",
       .width = 72},
      {.kind = Kind::condition,
       .quantity = kReceiverDial,
       .head = "Dial",
       .hint = "Where the receiver\u2019s dial stands: the pitch in a recording then tells how "
               "far off it is",
       .asked = Quantity::frequency,
       .unit = "Hz",
       .typed_unit = "MHz",
       .width = 84,
       .csv = "dial_hz"},
      {.kind = Kind::condition,
       .quantity = kSpecifiedSensitivity,
       .head = "Specified",
       .hint = "Level for 10 dB on this band, instead of the test\u2019s limit",
       .asked = Quantity::level,
       .unit = "dBm",
       .width = 84}};
}

std::vector<SettingField> sensitivity_setting_fields() {
  using Kind = SettingField::Kind;
  constexpr const char* kInput = "Input";
  constexpr const char* kAudio = "Audio";
  constexpr const char* kReceiver = "Receiver";
  constexpr const char* kDial = "Dial";
  return {
      {.kind = Kind::choice,
       .key = "input",
       .group = kInput,
       .head = "Injected at",
       .hint = "Only points that are alike are compared.",
       .choices = {{"socket", "antenna socket"},
                   {"dummy", "dummy antenna"},
                   {"inner", "inner point"}}},
      {.kind = Kind::choice,
       .key = "impedance",
       .group = kInput,
       .head = "Impedance there",
       .hint = "At a high one the voltage is nearly EMF, twice the matched one; unknown becomes "
               "a \u00b1 that covers both.",
       .choices = {{"50", "50 \u03a9"},
                   {"other", "another, typed below"},
                   {"high", "high"},
                   {"unknown", "unknown"}}},
      quantity_setting("impedance_ohm", kInput, "Another impedance", "Resistive.",
                       Quantity::impedance, "\u03a9", "50 \u03a9", "75"),
      {.kind = Kind::choice,
       .key = "level_in",
       .group = kInput,
       .head = "A bare level means",
       .hint = "What stands on the generator\u2019s dial; with a unit any may be typed.",
       .choices = {{"dbm", "dBm"}, {"uv_emf", "\u00b5V EMF"}, {"uv_pd", "\u00b5V PD"}}},
      quantity_setting("u_level_db", kInput, "\u00b1 of the generator", "Expanded, k = 2.",
                       Quantity::uncertainty, "dB", "\u00b1 0.9 dB, as usual", "1 dB"),
      {.kind = Kind::choice,
       .key = "procedure",
       .group = kAudio,
       .head = "Procedure",
       .hint = "A fixed level and what ratio it gives, or the level set until the ratio is 10 "
               "dB.",
       .choices = {{"fixed_level", "fixed level"}, {"fixed_ratio", "level set for 10 dB"}}},
      {.kind = Kind::choice,
       .key = "meter",
       .group = kAudio,
       .head = "Meter",
       .hint = "An average-responding one reads noise 1.05 dB low beside a tone: corrected.",
       .choices = {{"true_rms", "true RMS voltmeter"},
                   {"average", "average-responding voltmeter"},
                   {"db", "meter that shows dB"}}},
      quantity_setting("u_audio_db", kAudio, "\u00b1 of an audio difference", "Expanded, k = 2.",
                       Quantity::uncertainty, "dB", "\u00b1 0.2 dB, as usual", "0.3 dB"),
      quantity_setting("listen_s", kAudio, "Listens for",
                       "To each state, where a voltmeter answers.", Quantity::duration, "s",
                       "4 s, as usual", "10 s"),
      {.kind = Kind::choice,
       .key = "mode",
       .group = kReceiver,
       .head = "Mode",
       .hint = "AM: switch the modulation on and off, not the carrier.",
       .choices = {{"ssb", "SSB"}, {"cw", "CW"}, {"am", "AM"}, {"fm", "FM"}}},
      quantity_setting("depth", kReceiver, "Depth of the modulation, %", "In AM.", Quantity::number,
                       "", "30, as usual", "30"),
      frequency_setting("modulation_hz", kReceiver, "Its tone", "In AM.", "1 kHz, as usual",
                        "400 Hz", "Hz"),
      frequency_setting("bandwidth_hz", kReceiver, "Noise bandwidth",
                        "Of the receiver; a recording of its noise tells it. Only the noise "
                        "figure needs it.",
                        "Not known", "2.4 kHz", "Hz"),
      quantity_setting("generator_ppm", kDial, "Generator\u2019s frequency within",
                       "With it the pitch in a recording judges the dial.", Quantity::relative,
                       "ppm", "Not known", "0.1 ppm"),
      frequency_setting("dial_step_hz", kDial, "Step of the dial", "Half of it either way.",
                        "10 Hz, as usual", "1 Hz", "Hz"),
      {.kind = Kind::choice,
       .key = kRightAxis,
       .group = "Plot",
       .head = "Its right axis",
       .hint = "The same levels in another unit; the noise figure in SSB and CW, where the "
               "bandwidth is "
               "known.",
       .choices = {{"pd", "\u00b5V PD"}, {"emf", "\u00b5V EMF"}, {"nf", "noise figure"}}}};
}

LimitField sensitivity_limit(const Evidence&) {
  LimitField f;
  f.head = "Level for 10 dB, at most";
  f.hint = "(S+N)/N of 10 dB at the input; a band may have its own in the grid.";
  f.label = "Limit";
  f.example = "\u2212113 dBm, or 0.5 \u00b5V";
  f.asked = Quantity::level;
  f.unit = "dBm";
  f.sense = Sense::at_most;
  return f;
}

}  // namespace heron
