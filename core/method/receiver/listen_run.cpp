#include "core/method/receiver/listen_run.h"

#include <algorithm>
#include <cmath>

#include "core/method/receiver/sensitivity_settings.h"

namespace heron {
namespace {

constexpr double kUsualDbm = -107.0;
constexpr double kReadingS = 0.7;  ///< with the pause before it
constexpr double kMostReadings = 60.0;
constexpr double kDeafDbm = -53.0;  ///< 20 dB over S9

}  // namespace

RunRecipe listen_run(const Evidence& evidence) {
  const ReceiverPlan plan = receiver_plan(evidence);
  RunRecipe recipe;
  recipe.stimulus = RunRecipe::Stimulus::carrier;
  RunRecipe::Listen listen{kInputReading, kAudioOff, kAudioOn, kAudioHalf, {}};
  listen.birdie = kBirdie;
  listen.readings =
      static_cast<int>(std::clamp(std::round(plan.listen_s / kReadingS), 2.0, kMostReadings));
  for (const EvidenceStep& step : evidence.steps) {
    auto& place = listen.places.emplace_back();
    if (receiver_step_name(step.label).is_noise) {
      place.emplace();
      place->is_noise = true;
      continue;
    }
    const auto hz = receiver_frequency_hz(step);
    if (!hz || !(*hz > 0.0)) continue;
    const Condition* specified = find_condition(step.conditions, kSpecifiedSensitivity);
    const double wanted = specified != nullptr     ? specified->value
                          : plan.sensitivity.limit ? plan.sensitivity.limit->value
                                                   : kUsualDbm;
    // Of the generator: what the path takes away, and what the input makes of it.
    const double before = generator_over_receiver_db(evidence, *hz) - plan.point.shift_db;
    place = RunRecipe::Listen::Place{*hz, wanted + before, std::max(kDeafDbm, wanted) + before};
  }
  if (plan.mode == "AM") {
    listen.am = RunRecipe::Listen::Modulation{plan.depth, plan.modulation_hz};
    listen.beside_hz = 0.0;
  }
  recipe.listen = std::move(listen);
  if (plan.mode == "FM") {
    recipe.refusal = "In FM a carrier quiets the noise: its ratio is no (S+N)/N of one level.";
    recipe.what_to_do = "Read the meter without and with the modulation, and type both";
  }
  return recipe;
}

}  // namespace heron
