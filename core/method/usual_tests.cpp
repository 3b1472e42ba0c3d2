#include "core/method/usual_tests.h"

#include <array>
#include <string>

#include "core/quantity/typed_number.h"

namespace heron {
namespace {

// What needs a cold start comes first, low power before high, and what shares a hook-up stands
// together.
constexpr std::string_view kCold = "needs a cold start: first, or another day";
constexpr std::string_view kWarm = "with what the drift run has warmed up";

constexpr std::array kTransceiver{
    UsualTest{"drift", kCold},
    UsualTest{"reference", kWarm},
    UsualTest{"sensitivity", "a generator only, transmitter disabled"},
    UsualTest{"indicator", "with the generator as it stands"},
    UsualTest{"receiver", "puts the bands side by side; nothing is hooked up"},
    UsualTest{"output", "the first power, and what the others refer to"},
    UsualTest{"two_tone", "the same hook-up: how clean, as drive rises"},
    UsualTest{"noise", "the same hook-up: how wide with speech"},
    UsualTest{"purity", "harmonics and spurs, at full power"},
    UsualTest{"bandwidth", "the same recordings serve"}};
constexpr std::array kTransmitter{
    UsualTest{"drift", kCold},
    UsualTest{"reference", kWarm},
    UsualTest{"output", "the first power, and what the others refer to"},
    UsualTest{"two_tone", "the same hook-up: how clean, as drive rises"},
    UsualTest{"purity", "harmonics and spurs, at full power"},
    UsualTest{"bandwidth", "the same recordings serve"}};
constexpr std::array kReceiver{
    UsualTest{"survey", "by ear first: which bands hear at all"},
    UsualTest{"drift", kCold},
    UsualTest{"reference", kWarm},
    UsualTest{"sensitivity", "band by band, against its specification"},
    UsualTest{"indicator", "with the generator as it stands"},
    UsualTest{"conversion", "tells loss in front from loss behind"},
    UsualTest{"receiver", "puts the bands side by side; nothing is hooked up"}};
constexpr std::array kAmplifier{UsualTest{"first_power", "before anything is driven"},
                                UsualTest{"gain", "from little drive up to its compression"},
                                UsualTest{"response", "at little drive, over its bands"},
                                UsualTest{"two_tone", "with the transmitter that drives it"},
                                UsualTest{"purity", "harmonics, at full power"}};
constexpr std::array kTransverter{
    UsualTest{"drift", kCold},
    UsualTest{"reference", "each oscillator has its own share"},
    UsualTest{"sensitivity", "a generator only, transmitter disabled"},
    UsualTest{"output", "the first power, and what the others refer to"},
    UsualTest{"two_tone", "the same hook-up: how clean, as drive rises"},
    UsualTest{"purity", "mixing products beside the harmonics"}};
constexpr std::array kSynthesizer{
    UsualTest{"drift", kCold},
    UsualTest{"reference", kWarm},
    UsualTest{"phase_noise", "what it is for: curves before and after a change"},
    UsualTest{"noise_setting", "which setting is quietest"},
    UsualTest{"loop", "explains the curves; nothing is hooked up"},
    UsualTest{"reciprocal", "what it does to a weak signal; nothing is hooked up"},
    UsualTest{"touch", "which of it comes by supply, lid and microphony"},
    UsualTest{"lock", "where it follows an outside reference"}};
constexpr std::array kReference{UsualTest{"drift", kCold},
                                UsualTest{"stability", "from the same log"},
                                UsualTest{"reference", "against something that is known better"},
                                UsualTest{"adjust", "last, when it is known which way"}};

constexpr std::array kKinds{
    DeviceKind{"Transceiver", "transceiver station", kTransceiver},
    DeviceKind{"Transverter", "transverter converter", kTransverter},
    DeviceKind{"Amplifier", "amplifier", kAmplifier},
    DeviceKind{"Receiver", "receiver", kReceiver},
    DeviceKind{"Transmitter", "transmitter beacon exciter", kTransmitter},
    DeviceKind{"Synthesizer", "synthesizer synthesiser oscillator vfo generator", kSynthesizer},
    DeviceKind{"Frequency reference", "reference standard tcxo ocxo", kReference}};

}  // namespace

std::span<const DeviceKind> device_kinds() {
  return kKinds;
}

const DeviceKind* find_device_kind(std::string_view typed) {
  const std::string kind = lower_case(std::string(typed));
  for (const DeviceKind& k : kKinds) {
    std::string_view words = k.words;
    while (!words.empty()) {
      const auto end = words.find(' ');
      if (kind.find(words.substr(0, end)) != std::string::npos) return &k;
      words = end == std::string_view::npos ? std::string_view() : words.substr(end + 1);
    }
  }
  return nullptr;
}

}  // namespace heron
