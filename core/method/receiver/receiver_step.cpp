#include "core/method/receiver/receiver_step.h"

#include <cmath>

#include "core/method/measure/path_level.h"
#include "core/method/place_name.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/typed_number.h"

namespace heron {

ReceiverStepName receiver_step_name(const std::string& label) {
  const auto comma = label.rfind(',');
  if (comma == std::string::npos) return {normalised_typing(label)};
  const std::string word = lower_case(normalised_typing(label.substr(comma + 1)));
  const bool is_noise = word == "noise" || word == "noise only" || word == "off";
  const bool is_after = word == "after";
  return {normalised_typing(is_noise || is_after ? label.substr(0, comma) : label), is_noise,
          is_after};
}

std::optional<double> receiver_frequency_hz(const EvidenceStep& step) {
  const Condition* own = find_condition(step.conditions, kReceiverFrequency);
  return own != nullptr ? std::optional(own->value) : named_frequency_hz(step.label);
}

Figure at_receiver(Figure level, const Evidence& evidence, std::optional<double> frequency_hz) {
  if (!evidence.hookup || evidence.hookup->parts.empty()) return level;
  if (!frequency_hz)
    throw InputError(level.label, "", "its frequency is not known, and the hook-up needs it",
                     "Type the frequency, or call the step by it: 14.2 MHz");
  level.value += total_gain_db(*evidence.hookup, *frequency_hz);
  for (Contribution& c : level_contributions(*evidence.hookup, *frequency_hz))
    level.contributions.push_back(std::move(c));
  return level;
}

Remark unknown_way(const std::string& step, const InputError& error) {
  return {"path", Severity::caution, step + ": " + error.reason + ".", error.advice};
}

double generator_over_receiver_db(const Evidence& evidence, double frequency_hz) {
  try {
    return -at_receiver({}, evidence, frequency_hz).value;
  } catch (const InputError&) {
    return 0.0;
  }
}

std::string microvolt_text(double level_dbm) {
  const double uv = 1e6 * to_pd(to_watt(Dbm{level_dbm})).value;
  const double digit = std::pow(10.0, std::floor(std::log10(uv)) - 1.0);
  const double rounded = std::round(uv / digit) * digit;
  return number_text(rounded, rounded >= 10.0 ? 0 : rounded >= 1.0 ? 1 : 2);
}

StepPlan plan_receiver_bands(const Evidence& evidence) {
  return {"Plan the bands from 1.8 to 28 MHz",
          {"1.85 MHz", "3.65 MHz", "7.1 MHz", "10.12 MHz", "14.2 MHz", "18.1 MHz", "21.2 MHz",
           "24.94 MHz", "28.5 MHz"},
          evidence.settings};
}

}  // namespace heron
