#include "core/method/method_table.h"

#include <algorithm>
#include <array>

#include "core/method/method.h"
#include "core/method/output/output_method.h"

namespace heron {

std::span<const Characteristic> characteristics() {
  static constexpr std::array<Characteristic, 10> table{{
      {"output", "Output", "Output power", "How much power does it deliver?", "W", 20.0, true},
      {"two_tone", "Two-tone", "Two-tone products",
       "How clean is the transmitted signal as drive rises?", "dB", 20.0, true},
      {"noise", "Noise", "Noise and speech", "How far does it spread with noise and speech?", "dB",
       20.0, true},
      {"purity", "Purity", "Harmonics and spurs", "What does it transmit beside the wanted signal?",
       "dB", 20.0, true},
      {"bandwidth", "Bandwidth", "Occupied bandwidth", "How wide is its signal?", "Hz", 1000.0,
       true},
      {"gain", "Gain", "Amplifier gain", "How much does it amplify, and up to where?", "dB", 10.0,
       false},
      {"phase_noise", "Phase noise", "Phase noise", "How quiet is its oscillator?", "dB", 20.0,
       false},
      {"reference", "Reference", "Frequency accuracy", "How far off is its frequency reference?",
       "ppm", 0.5, false},
      {"drift", "Drift", "Drift from cold", "When has its frequency settled?", "min", 20.0, false},
      {"sensitivity", "Sensitivity", "Sensitivity", "How weak a signal can it hear?", "dB", 20.0,
       false},
  }};
  return table;
}

const Characteristic* find_characteristic(std::string_view id) {
  const auto all = characteristics();
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Characteristic& c) { return c.id == id; });
  return found == all.end() ? nullptr : &*found;
}

const Method* find_method(std::string_view id) {
  static const std::array<const Method*, 1> all{&output_method()};
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Method* m) { return m->id == id; });
  return found == all.end() ? nullptr : *found;
}

}  // namespace heron
