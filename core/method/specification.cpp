#include "core/method/specification.h"

#include <algorithm>
#include <array>

#include "core/error.h"
#include "core/method/measure/convention.h"
#include "core/method/method_table.h"
#include "core/quantity/parse_quantity.h"
#include "core/quantity/typed_number.h"

namespace heron {
namespace {

constexpr std::array kTransceiverLines{
    UsualLine{"output", "100 W", "full power, each band"},
    UsualLine{"two_tone", "-30 dB", "full power"},
    UsualLine{"purity", "-43 dBc", "harmonics, full power"},
    UsualLine{"bandwidth", "2.8 kHz", "speech or noise at full power"},
    UsualLine{"reference", "1 ppm", "warm, 20 \u00b0C"},
    UsualLine{"sensitivity", "-121 dBm", "SSB 2.4 kHz, preamplifier on"},
    UsualLine{"indicator", "6 dB", "S9 point, each band"}};
constexpr std::array kTransverterLines{
    UsualLine{"output", "10 W", "full drive"}, UsualLine{"two_tone", "-30 dB", "full drive"},
    UsualLine{"sensitivity", "-135 dBm", "SSB 2.4 kHz"}, UsualLine{"reference", "5 ppm", "warm"}};
constexpr std::array kAmplifierLines{UsualLine{"output", "60 W", "rated drive and supply"},
                                     UsualLine{"gain", "47 dBm", "1 dB compression"},
                                     UsualLine{"response", "13 dB", "over the band"},
                                     UsualLine{"two_tone", "-30 dB", "rated power"},
                                     UsualLine{"purity", "-43 dBc", "harmonics, rated power"}};
constexpr std::array kReceiverLines{
    UsualLine{"sensitivity", "-113 dBm", "10 dB (S+N)/N, SSB 2.4 kHz"},
    UsualLine{"indicator", "6 dB", "S9 point"}, UsualLine{"conversion", "34 dB", "antenna to IF"},
    UsualLine{"reference", "50 ppm", "warm, dial or display"}};
constexpr std::array kTransmitterLines{UsualLine{"output", "10 W", "full power"},
                                       UsualLine{"two_tone", "-30 dB", "full power"},
                                       UsualLine{"reference", "1 ppm", "warm"}};
constexpr std::array kSynthesizerLines{UsualLine{"phase_noise", "1.0", "at the final band"},
                                       UsualLine{"touch", "-50", "any line"},
                                       UsualLine{"reference", "1 ppm", "warm"},
                                       UsualLine{"lock", "6 dB", "with the reference in use"}};
constexpr std::array kReferenceLines{UsualLine{"reference", "0.1 ppm", "warm"},
                                     UsualLine{"drift", "0.1 ppm", "from cold"}};

struct Sensed {
  const char* words;
  Sense sense;
};
constexpr std::array<Sensed, 11> kSenses{{{"no more than", Sense::at_most},
                                          {"no less than", Sense::at_least},
                                          {"at most", Sense::at_most},
                                          {"at least", Sense::at_least},
                                          {"within", Sense::within},
                                          {"+-", Sense::within},
                                          {"\u00b1", Sense::within},
                                          {"\u2264", Sense::at_most},
                                          {"\u2265", Sense::at_least},
                                          {"<", Sense::at_most},
                                          {">", Sense::at_least}}};

}  // namespace

std::optional<LimitField> spec_field(std::string_view characteristic) {
  const Method* method = find_method(characteristic);
  if (method == nullptr) return std::nullopt;
  if (method->limit == nullptr && method->mask == nullptr) return std::nullopt;
  if (method->limit == nullptr) {
    // Its test is judged by a mask; a specification says one level for all of it.
    LimitField all;
    all.example = "\u221250 dBc";
    all.asked = Quantity::limit;
    all.unit = "dBc";
    all.sense = Sense::at_most;
    all.convention = "re carrier";
    return all;
  }
  Evidence nothing;
  nothing.settings = nlohmann::json::object();
  if (method->usual_settings != nullptr && !method->settings_key.empty())
    nothing.settings[std::string(method->settings_key)] = method->usual_settings();
  return method->limit(nothing);
}

Limit spec_limit(std::string_view characteristic, const std::string& typed) {
  const auto field = spec_field(characteristic);
  if (!field)
    throw InputError("limit", "", "no test judges this by one limit",
                     "Choose a mask on the sheet of its test instead");
  std::string number = normalised_typing(typed);
  for (const Sensed& s : kSenses) {
    if (!lower_case(number).starts_with(s.words)) continue;
    if (s.sense != field->sense)
      throw InputError("limit", typed, "it is judged the other way round",
                       "Type it like \u201c" + field->example + "\u201d");
    number = normalised_typing(number.substr(std::string_view(s.words).size()));
    break;
  }
  if (!field->convention.empty() && number.ends_with(field->convention))
    number = normalised_typing(number.substr(0, number.size() - field->convention.size()));
  // Depths are typed with either sign.
  if (field->asked == Quantity::limit && !number.empty() && number.front() >= '0' &&
      number.front() <= '9')
    number.insert(0, 1, '-');
  QuantityOptions options;
  options.default_unit = field->asked == Quantity::power ? field->unit : std::string();
  if ((field->asked == Quantity::number || field->unit == "dBc") && number.ends_with(field->unit))
    number = normalised_typing(number.substr(0, number.size() - field->unit.size()));
  return limit_of(*field, parse_quantity(number, field->asked, options).value, typed);
}

Figure spec_figure(std::string_view characteristic, const std::string& typed,
                   const std::string& uncertainty) {
  const auto field = spec_field(characteristic);
  if (!field)
    throw InputError("figure", "", "no test is about this",
                     "Name a characteristic, such as Output power or Sensitivity");
  std::string number = normalised_typing(typed);
  Figure f;
  f.id = std::string(characteristic);
  f.unit = field->unit;
  f.convention = field->convention;
  for (const char* convention : {kReOneTone, kRePep})
    if (number.ends_with(convention)) {
      f.convention = convention;
      number =
          normalised_typing(number.substr(0, number.size() - std::string_view(convention).size()));
    }
  f.value = spec_limit(characteristic, number).value;
  if (const std::string u = normalised_typing(uncertainty); !u.empty()) {
    const auto own = leading_number(u);
    const bool is_own_unit = own && (own->rest.empty() || own->rest == field->unit);
    if (!is_own_unit || own->value < 0.0)
      throw InputError("\u00b1", u, "it is not in " + field->unit,
                       "Type it like 1 " + field->unit + ", or leave it empty");
    f.contributions = {{"as published", own->value / 2.0, Scope::independent}};
  }
  return f;
}

std::string spec_text(const Limit& limit) {
  std::string text = (limit.sense == Sense::at_most ? "at most " : "") + limit_text(limit);
  if (!limit.convention.empty()) text += " " + limit.convention;
  return text;
}

const Characteristic* named_characteristic(const std::string& typed) {
  const std::string wanted = lower_case(normalised_typing(typed));
  if (wanted.empty()) return nullptr;
  const Characteristic* begins = nullptr;
  bool is_one = true;
  for (const Characteristic& c : characteristics()) {
    if (!spec_field(c.id)) continue;
    for (const std::string_view name : {c.test, c.title, c.id}) {
      const std::string here = lower_case(std::string(name));
      if (here == wanted) return &c;
      if (!here.starts_with(wanted) || begins == &c) continue;
      is_one = begins == nullptr;
      begins = &c;
    }
  }
  return is_one ? begins : nullptr;
}

std::span<const UsualLine> usual_lines(const DeviceKind& kind) {
  if (kind.name == "Transceiver") return kTransceiverLines;
  if (kind.name == "Transverter") return kTransverterLines;
  if (kind.name == "Amplifier") return kAmplifierLines;
  if (kind.name == "Receiver") return kReceiverLines;
  if (kind.name == "Transmitter") return kTransmitterLines;
  if (kind.name == "Synthesizer") return kSynthesizerLines;
  return kReferenceLines;
}

}  // namespace heron
