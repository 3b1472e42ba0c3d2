#include "core/method/amplifier/gain_settings.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <fmt/format.h>

#include "core/method/live_quantity.h"
#include "core/method/measure/dc_power.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/in_watts.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr const char* kNominalVolts = "nominal_v";

struct ReadAtName {
  ReadAt at;
  const char* id;
};
constexpr std::array<ReadAtName, 4> kReadAt{{{ReadAt::device, "device"},
                                             {ReadAt::power_meter, "power_meter"},
                                             {ReadAt::rms_volts, "rms_volts"},
                                             {ReadAt::pp_volts, "pp_volts"}}};
constexpr const char* kLine = "line";
constexpr const char* kNone = "none";
constexpr const char* kByTransmitter = "transmitter";

std::optional<ReadAt> read_at(const std::string& id) {
  const auto found =
      std::find_if(kReadAt.begin(), kReadAt.end(), [&](const ReadAtName& n) { return n.id == id; });
  return found == kReadAt.end() ? std::nullopt : std::optional(found->at);
}

/// One of the choices that are numbers; nullopt = none.
std::optional<double> chosen_number(const json& from, const char* key, const char* usual) {
  return parse_number(from.value(key, usual));
}

const json& own(const json& settings) {
  static const json kNothing = json::object();
  const auto found = settings.find(kGainSettings);
  return found != settings.end() && found->is_object() ? *found : kNothing;
}

}  // namespace

GainSettings gain_settings_from_json(const json& settings) {
  GainSettings s;
  const json& from = own(settings);
  try {
    s.specified_gain_db = number_from(from, "specified_gain_db");
    s.rated_input_dbm = number_from(from, "rated_input_dbm");
    s.rated_output_dbm = number_from(from, "rated_output_dbm");
    s.linear_to_db =
        std::clamp(parse_number(from.value("linear_to", "1")).value_or(1.0), 0.05, 20.0);
    s.is_in_watts = from.value("levels_in", "dbm") == "w";
    s.is_power_added = from.value("efficiency_as", "dc") == "power_added";
    s.read_at = read_at(from.value("read_by", "device")).value_or(ReadAt::device);
    const std::string second = from.value("second_by", kNone);
    s.is_second_a_line = second == kLine;
    s.second_at = s.is_second_a_line ? std::optional(ReadAt::power_meter) : read_at(second);
    s.meter_offset_db = number_from(from, "meter_offset_db");
    s.probe = parse_number(from.value("probe", "1")).value_or(1.0);
    s.is_one_meter = from.value("one_meter", false);
    s.bypass_loss_db = std::abs(number_from(from, "bypass_loss_db").value_or(0.0));
    s.nominal_v = number_from(from, kNominalVolts);
    s.supply_limit_a = number_from(from, "supply_limit_a");
    s.input_expanded_db = number_from(from, "input_expanded_db");
    s.output_expanded_db = number_from(from, "output_expanded_db");
    s.is_driven_by_transmitter = from.value("driven_by", "generator") == kByTransmitter;
    s.driver_gain_db = number_from(from, "driver_gain_db");
    s.reads_harmonics = from.value("reads_harmonics", false);
    s.stop_down_db = chosen_number(from, "stop_down", "3");
    s.stop_sag_share = chosen_number(from, "stop_sag", "10");
    if (s.stop_sag_share) *s.stop_sag_share /= 100.0;
    s.stop_harmonic_dbc = number_from(from, "stop_harmonic_dbc");
    if (s.stop_harmonic_dbc) s.stop_harmonic_dbc = -std::abs(*s.stop_harmonic_dbc);
  } catch (const json::exception& error) {
    refuse_damaged(error);
  }
  return s;
}

json usual_gain_settings() {
  return {{"specified_gain_db", nullptr},
          {"rated_input_dbm", nullptr},
          {"rated_output_dbm", nullptr},
          {"linear_to", "1"},
          {"levels_in", "dbm"},
          {"efficiency_as", "dc"},
          {"read_by", "device"},
          {"second_by", kNone},
          {"meter_offset_db", nullptr},
          {"probe", "1"},
          {"one_meter", false},
          {"bypass_loss_db", nullptr},
          {kNominalVolts, nullptr},
          {"supply_limit_a", nullptr},
          {"input_expanded_db", nullptr},
          {"output_expanded_db", nullptr},
          {"driven_by", "generator"},
          {"driver_gain_db", nullptr},
          {"reads_harmonics", false},
          {"stop_down", "3"},
          {"stop_sag", "10"},
          {"stop_harmonic_dbc", nullptr}};
}

std::string check_gain_settings(const json& settings) {
  const GainSettings s = gain_settings_from_json(settings);
  if (s.rated_input_dbm && s.rated_output_dbm && *s.rated_output_dbm <= *s.rated_input_dbm)
    return "The rated output must be above the rated drive.";
  if (s.specified_gain_db && *s.specified_gain_db <= 0.0)
    return "The specified gain must be above 0 dB.";
  return {};
}

std::vector<SettingField> gain_setting_fields() {
  using Kind = SettingField::Kind;
  return {
      {.kind = Kind::quantity,
       .key = "specified_gain_db",
       .head = "Expected",
       .hint = "Small-signal gain as specified. Each step is judged by it, up to the rated output.",
       .asked = Quantity::gain,
       .unit = "dB",
       .none = "No gain is specified",
       .example = "13 dB"},
      {.kind = Kind::quantity,
       .key = "rated_input_dbm",
       .head = "Rated drive",
       .hint = "The drive that gives the rated output.",
       .asked = Quantity::level,
       .unit = "dBm",
       .typed_unit = "W",
       .typed_key = "rated_input_typed",
       .none = "No rated drive",
       .example = "3 W"},
      {.kind = Kind::quantity,
       .key = "rated_output_dbm",
       .head = "Rated output",
       .hint = "The output that is stated for the rated drive.",
       .asked = Quantity::level,
       .unit = "dBm",
       .typed_unit = "W",
       .typed_key = "rated_output_typed",
       .none = "No rated output",
       .example = "60 W"},
      {.key = "linear_to",
       .head = "Linear to",
       .hint = "Compression up to which it counts as linear",
       .choices = {{"0.5", "0.5 dB"}, {"1", "1 dB"}, {"2", "2 dB"}, {"3", "3 dB"}}},
      {.key = "levels_in",
       .head = "Levels in",
       .hint = "Of readout, axes and table; W on the keyboard",
       .choices = {{"dbm", "dBm"}, {"w", "W"}},
       .key_press = 'W'},
      {.key = "efficiency_as",
       .head = "Efficiency",
       .hint = "In the plot; E on the keyboard",
       .choices = {{"dc", "of DC power"}, {"power_added", "power-added"}},
       .key_press = 'E'},
      {.key = "read_by",
       .group = "How it is read",
       .head = "Output read by",
       .hint = "Where outputs are read that are typed",
       .choices = {{"device", "anything, attenuation counted in"},
                   {"power_meter", "power meter at the end of the hook-up"},
                   {"rms_volts", "V RMS at the end of the hook-up"},
                   {"pp_volts", "V peak-to-peak at the end of the hook-up"}}},
      {.key = "second_by",
       .group = "How it is read",
       .head = "Read again by",
       .hint = "The same output in a second way: both are compared",
       .choices = {{kNone, "nothing"},
                   {"power_meter", "power meter"},
                   {"rms_volts", "V RMS"},
                   {"pp_volts", "V peak-to-peak"},
                   {kLine, "one spectral line"}}},
      {.key = "probe",
       .group = "How it is read",
       .head = "Probe",
       .hint = "Of the instrument that reads volts",
       .choices = {{"1", "1:1, or a terminated line"}, {"10", "10:1"}, {"100", "100:1"}}},
      {.kind = Kind::quantity,
       .key = "meter_offset_db",
       .group = "How it is read",
       .head = "Offset set in the meter",
       .hint = "What the power meter adds to its reading by itself: the hook-up is not counted for "
               "that part again.",
       .asked = Quantity::gain,
       .unit = "dB",
       .none = "No offset in the meter",
       .example = "30 dB"},
      {.kind = Kind::flag,
       .key = "one_meter",
       .group = "How it is read",
       .head = "One meter for drive and output",
       .hint = "The device bypassed, then in line, through one chain: what the meter and the chain "
               "are off by cancels from the gain"},
      {.kind = Kind::quantity,
       .key = "bypass_loss_db",
       .group = "How it is read",
       .head = "Loss of the bypass",
       .hint = "Of the cable that stands for the device while the drive is read.",
       .asked = Quantity::gain,
       .unit = "dB",
       .none = "No loss in the bypass",
       .example = "0.2 dB"},
      {.kind = Kind::quantity,
       .key = kNominalVolts,
       .group = "Supply",
       .head = "Nominal supply",
       .hint =
           "Volts that the specification is for. Where they sag by more than 2 %, figures count "
           "only as \u201cat least\u201d.",
       .asked = Quantity::voltage,
       .unit = "V",
       .none = "No nominal supply",
       .example = "28 V"},
      {.kind = Kind::quantity,
       .key = "supply_limit_a",
       .group = "Supply",
       .head = "Limit of the supply",
       .hint = "Current at which the supply that is used stops.",
       .asked = Quantity::current,
       .unit = "A",
       .none = "No limit of the supply",
       .example = "10 A"},
      {.kind = Kind::quantity,
       .key = "input_expanded_db",
       .group = "How it is read",
       .head = "\u00b1 of the drive",
       .hint = "Expanded uncertainty (k = 2) of the drive at the amplifier, common to all steps.",
       .asked = Quantity::uncertainty,
       .unit = "dB",
       .none = "\u00b1 0.2 dB, as usual",
       .example = "0.2 dB"},
      {.kind = Kind::quantity,
       .key = "output_expanded_db",
       .group = "How it is read",
       .head = "\u00b1 of the output",
       .hint = "Expanded uncertainty (k = 2) of the output as it is read, common to all steps; the "
               "hook-up adds its own.",
       .asked = Quantity::uncertainty,
       .unit = "dB",
       .none = "\u00b1 0.2 dB as usual",
       .example = "0.3 dB"},
      {.key = "driven_by",
       .group = "Automatic steps",
       .head = "Driven by",
       .hint = "What puts out the drive when the program keys the steps",
       .choices = {{"generator", "generator at the radio frequency"},
                   {kByTransmitter, "transmitter, with a tone of the generator"}}},
      {.kind = Kind::quantity,
       .key = "driver_gain_db",
       .group = "Automatic steps",
       .head = "From generator to drive",
       .hint = "Gain of a driver or loss of a cable between generator and device: its level plus "
               "this is the drive. Not used with one meter.",
       .asked = Quantity::gain,
       .unit = "dB",
       .none = "Not known",
       .example = "\u22120.5 dB"},
      {.kind = Kind::flag,
       .key = "reads_harmonics",
       .group = "Automatic steps",
       .head = "Read harmonics too",
       .hint = "Second and third harmonic after each output, with the spectrum analyser or the "
               "sampler at the end of the hook-up"},
      {.key = "stop_down",
       .group = "Automatic steps",
       .head = "Stop at compression",
       .hint = "No harder step is keyed after one that is so far compressed",
       .choices = {{"1", "1 dB"}, {"2", "2 dB"}, {"3", "3 dB"}, {"5", "5 dB"}, {kNone, "any"}}},
      {.key = "stop_sag",
       .group = "Automatic steps",
       .head = "Stop at sag",
       .hint = "No harder step is keyed after one whose supply is so far below nominal",
       .choices = {{"2", "2 %"}, {"5", "5 %"}, {"10", "10 %"}, {kNone, "any"}}},
      {.kind = Kind::quantity,
       .key = "stop_harmonic_dbc",
       .group = "Automatic steps",
       .head = "Stop at harmonics",
       .hint = "No harder step is keyed after one with a harmonic above this.",
       .asked = Quantity::limit,
       .unit = "dB",
       .none = "At any level",
       .example = "\u221230 dBc"},
  };
}

std::string gain_setting_words(const Evidence& evidence) {
  const GainSettings s = gain_settings_from_json(evidence.settings);
  std::string words;
  if (s.specified_gain_db)
    words = number_text(*s.specified_gain_db,
                        *s.specified_gain_db == std::round(*s.specified_gain_db) ? 0 : 1) +
            " dB";
  if (s.rated_output_dbm) words += (words.empty() ? "" : ", ") + watts_text(*s.rated_output_dbm);
  return words.empty() ? "not specified" : words;
}

std::string_view bare_gain_unit(const TypedField& field, const json& settings) {
  if (field.unit != "dBm") return field.typed_unit.empty() ? field.unit : field.typed_unit;
  const GainSettings s = gain_settings_from_json(settings);
  const std::string_view power = s.is_in_watts ? "W" : "dBm";
  const auto unit_at = [&](ReadAt at) -> std::string_view {
    return at == ReadAt::rms_volts ? "V" : at == ReadAt::pp_volts ? "Vpp" : power;
  };
  if (field.quantity == "second_output")
    return !s.second_at ? std::string_view() : s.is_second_a_line ? "dBm" : unit_at(*s.second_at);
  // With one meter the drive is read as the output is.
  if (field.quantity == "output" || s.is_one_meter) return unit_at(s.read_at);
  return power;
}

AmplifierPlan amplifier_plan(const Evidence& evidence) {
  const GainSettings s = gain_settings_from_json(evidence.settings);
  AmplifierPlan plan;
  plan.specified_gain_db = s.specified_gain_db;
  plan.rated_input_dbm = s.rated_input_dbm;
  plan.rated_output_dbm = s.rated_output_dbm;
  plan.linear_to_db = s.linear_to_db;
  plan.nominal_v = s.nominal_v;
  plan.supply_limit_a = s.supply_limit_a;
  plan.meter_offset_db = s.meter_offset_db.value_or(0.0);
  plan.probe_db = s.probe > 1.0 ? probe_loss(s.probe).value : 0.0;
  const auto reader = [](ReadAt at) {
    return at == ReadAt::rms_volts  ? OutputReader::rms_volts
           : at == ReadAt::pp_volts ? OutputReader::pp_volts
                                    : OutputReader::power_meter;
  };
  plan.reader = reader(s.read_at);
  if (s.is_second_a_line)
    plan.second_reader = OutputReader::spectral_line;
  else if (s.second_at)
    plan.second_reader = reader(*s.second_at);
  // A limit in dB is one of gain.
  if (evidence.limit && evidence.limit->unit == "dB")
    plan.specified_gain_db = evidence.limit->value;
  if (evidence.limit) plan.compression_limit = limit_in_dbm(*evidence.limit);
  if (plan.compression_limit) plan.compression_limit->sense = Sense::at_least;
  return plan;
}

}  // namespace heron
