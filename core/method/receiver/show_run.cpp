#include "core/method/receiver/show_run.h"

#include <algorithm>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/receiver/indicator_settings.h"
#include "core/method/receiver/receiver_step.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

constexpr double kFromBelowDb = 6.0;  // it is read rising
constexpr double kLeastDbm = -127.0;  // at the receiver
constexpr double kMostDbm = -13.0;    // S9+60: front ends stand that

RunRecipe::Listen::Place place_of(const Evidence& evidence, const IndicatorStep& step,
                                  double frequency_hz) {
  const double before_db = generator_over_receiver_db(evidence, frequency_hz);
  RunRecipe::Listen::Place place;
  place.frequency_hz = frequency_hz;
  double first_dbm = kLeastDbm;
  if (step.reading.is_segments) {
    place.shows = fmt::format("{:.0f} segments", step.reading.segments);
  } else {
    place.shows = indicator_text(step.reading.db);
    place.shown = 9.0 + step.reading.db / kSUnitDb;
    first_dbm = usual_s9_dbm(frequency_hz) + step.reading.db - kFromBelowDb +
                step.attenuator_db.value_or(0.0);
  }
  if (step.attenuator_db)
    place.by_hand = fmt::format("switch in {} dB", number_text(*step.attenuator_db, 0));
  place.first_dbm = std::clamp(first_dbm, kLeastDbm, kMostDbm) + before_db;
  place.most_dbm = kMostDbm + step.attenuator_db.value_or(0.0) + before_db;
  return place;
}

}  // namespace

RunRecipe show_run(const Evidence& evidence) {
  RunRecipe recipe;
  recipe.stimulus = RunRecipe::Stimulus::carrier;
  RunRecipe::Listen listen;
  listen.input = kIndicatorLevel;
  listen.on = kIndicatorLevel;
  for (const EvidenceStep& step : evidence.steps) {
    auto& place = listen.places.emplace_back();
    try {
      const IndicatorStep read = indicator_step(step.label);
      if (read.frequency_hz && *read.frequency_hz > 0.0)
        place = place_of(evidence, read, *read.frequency_hz);
    } catch (const InputError&) {
      place.reset();  // the result says what is wrong with its name
    }
  }
  recipe.listen = std::move(listen);
  return recipe;
}

}  // namespace heron
