#include "core/method/receiver/convert_run.h"

#include <algorithm>

#include "core/method/place_name.h"
#include "core/method/quantity_setting.h"
#include "core/method/receiver/conversion.h"
#include "core/method/receiver/receiver_step.h"
#include "core/method/result_json.h"

namespace heron {
namespace {

constexpr double kUsualInputDbm = -50.0;
constexpr double kMostInputDbm = -20.0;  // what front ends stand, and none is measured at

}  // namespace

RunRecipe convert_run(const Evidence& evidence) {
  const nlohmann::json& own = own_settings(evidence.settings, kConversionSettings);
  const double level_dbm =
      std::min(kMostInputDbm, number_from(own, "level_dbm").value_or(kUsualInputDbm));
  RunRecipe recipe;
  recipe.stimulus = RunRecipe::Stimulus::carrier;
  RunRecipe::Listen listen;
  listen.input = kConversionIn;
  listen.on = kConversionOut;
  listen.at_if = RunRecipe::Listen::IfLevels{kConversionLowIn, kConversionLowOut, 10.0,
                                             number_from(own, "if_hz"), probe_db(own)};
  for (const EvidenceStep& step : evidence.steps) {
    auto& place = listen.places.emplace_back();
    const auto hz = named_frequency_hz(step.label);
    if (!hz || !(*hz > 0.0)) continue;
    const double before_db = generator_over_receiver_db(evidence, *hz);
    place.emplace();
    place->frequency_hz = *hz;
    place->first_dbm = level_dbm + before_db;
    place->most_dbm = kMostInputDbm + before_db;
    place->by_hand = "AGC off";
  }
  recipe.listen = std::move(listen);
  return recipe;
}

}  // namespace heron
