#include "core/method/method_table.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "core/method/amplifier/first_power_method.h"
#include "core/method/amplifier/gain_method.h"
#include "core/method/amplifier/response_method.h"
#include "core/method/frequency/accuracy_method.h"
#include "core/method/frequency/adjust_method.h"
#include "core/method/frequency/drift_method.h"
#include "core/method/frequency/lock_method.h"
#include "core/method/frequency/stability_method.h"
#include "core/method/method.h"
#include "core/method/output/output_method.h"
#include "core/method/phase_noise/family_method.h"
#include "core/method/phase_noise/loop_method.h"
#include "core/method/phase_noise/noise_method.h"
#include "core/method/phase_noise/reciprocal_method.h"
#include "core/method/purity/purity_method.h"
#include "core/method/receiver/band_survey.h"
#include "core/method/receiver/conversion_method.h"
#include "core/method/receiver/indicator_method.h"
#include "core/method/receiver/receiver_grid.h"
#include "core/method/receiver/sensitivity_method.h"
#include "core/method/spread/spread_method.h"
#include "core/method/touch/touch_method.h"
#include "core/method/two_tone/two_tone_method.h"

namespace heron {

std::span<const Characteristic> characteristics() {
  static constexpr std::array<Characteristic, 23> table{{
      {"output", "Output", "Output power", "How much power does it deliver?", "W", 20.0, true},
      {"two_tone", "Two-tone", "Two-tone products",
       "How clean is the transmitted signal as drive rises?", "dB", 20.0, true},
      {"noise", "Noise", "Noise and speech", "How far does it spread with noise and speech?", "dB",
       20.0, true},
      {"purity", "Purity", "Harmonics and spurs", "What does it transmit beside the wanted signal?",
       "dB", 20.0, true},
      {"bandwidth", "Bandwidth", "Occupied bandwidth", "How wide is its signal?", "Hz", 1000.0,
       true},
      {"first_power", "First power", "First power", "May it get power for the first time?", "", 7.0,
       true, false},
      {"gain", "Gain", "Gain and compression", "Does it do what it says, and how far is it linear?",
       "dB", 20.0, true},
      {"response", "Response", "Frequency response", "Over which frequencies does it amplify?",
       "dB", 20.0, true},
      {"touch", "Touch test", "Touch test",
       "What changes when it is tapped, touched or fed differently?", "dB", 20.0, true},
      {"phase_noise", "Phase noise", "Phase noise",
       "How noisy is it at each offset, and what did a change do?", "\u00b0", 1.0, true},
      {"noise_setting", "Setting", "Phase noise over a setting",
       "Which setting is quietest for your use?", "dBc/Hz", 20.0, true},
      {"loop", "Loop", "Loop", "Why do the curves cross, and would another filter help?", "\u00b0",
       20.0, true},
      {"reciprocal", "Reciprocal", "Reciprocal mixing",
       "Would I still hear the weak one beside the strong one?", "dB", 20.0, true},
      {"reference", "Reference", "Frequency accuracy", "How far off is its frequency reference?",
       "ppm", 0.5, true},
      {"adjust", "Adjust", "Adjust the reference", "Which way, how far, and when is it enough?",
       "ppm", 0.5, true},
      {"drift", "Drift", "Drift from cold", "When has its frequency settled, and where?", "ppm",
       0.5, true},
      {"stability", "Stability", "Frequency stability",
       "How much does it scatter over an averaging time?", "ppb", 1.0, true},
      {"lock", "Lock", "Lock margin", "Will the external reference hold it, with how much in hand?",
       "dB", 20.0, true},
      {"receiver", "Receiver", "Receiver grid",
       "Which bands hear as they should, and where is the loss?", "dBm", 20.0, true},
      {"survey", "Survey", "Band survey", "Which bands hear at all, and what do deaf ones share?",
       "dBm", 20.0, true, false},
      {"sensitivity", "Sensitivity", "Sensitivity", "How weak a signal can it hear?", "dB", 20.0,
       true},
      {"conversion", "IF gain", "Conversion gain",
       "How much gain has it up to its IF, on each band?", "dB", 20.0, true},
      {"indicator", "Indicator", "Signal indicator", "What does its reading really mean?", "dB",
       10.0, true},
  }};
  return table;
}

const Characteristic* find_characteristic(std::string_view id) {
  const auto all = characteristics();
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Characteristic& c) { return c.id == id; });
  return found == all.end() ? nullptr : &*found;
}

const Characteristic& first_characteristic() {
  return *find_characteristic(two_tone_method().id);
}

std::span<const Method* const> methods() {
  static const std::array<const Method*, 23> all{
      &first_power_method(), &output_method(),        &two_tone_method(),     &noise_method(),
      &purity_method(),      &bandwidth_method(),     &gain_method(),         &response_method(),
      &touch_method(),       &phase_noise_method(),   &noise_family_method(), &loop_method(),
      &reciprocal_method(),  &accuracy_method(),      &drift_method(),        &stability_method(),
      &lock_method(),        &adjust_method(),        &sensitivity_method(),  &conversion_method(),
      &indicator_method(),   &receiver_grid_method(), &band_survey_method()};
  return all;
}

const Method* find_method(std::string_view id) {
  const auto all = methods();
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Method* m) { return m->id == id; });
  return found == all.end() ? nullptr : *found;
}

const Method* find_method_of_record(std::string_view format) {
  const auto all = methods();
  const auto found = std::find_if(all.begin(), all.end(), [&](const Method* m) {
    return !format.empty() && m->record_format == format;
  });
  return found == all.end() ? nullptr : *found;
}

bool has_convention(const Method& method, const std::string& convention) {
  return std::any_of(method.conventions.begin(), method.conventions.end(),
                     [&](const Convention& c) { return c.id == convention; });
}

std::string convention_of(const Method& method, const Evidence& evidence) {
  if (method.conventions.empty() || has_convention(method, evidence.convention))
    return evidence.convention;
  return std::string(method.conventions.back().id);
}

Limit limit_of(const LimitField& field, double value, const std::string& typed) {
  Limit limit;
  limit.name = "own limit";
  limit.sense = field.sense;
  limit.value = field.is_depth ? std::abs(value) : value;
  limit.unit = field.unit;
  limit.convention = field.convention;
  limit.span = std::max(field.span, field.span_share * std::abs(value));
  limit.typed = typed;
  return limit;
}

}  // namespace heron
