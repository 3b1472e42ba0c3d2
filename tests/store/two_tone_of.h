#pragma once

#include "core/method/two_tone/two_tone_take.h"
#include "store/loaded.h"
#include "store/reading.h"

namespace heron::testing {

/// A two-tone test of a shack with what its figures are made of.
struct TwoToneTest : GeneralTest {
  TwoToneSettings settings;
  LadderSettings ladder_settings;
  std::vector<std::optional<TwoToneAnalysis>> analyses;
  std::vector<std::optional<Figure>> outputs;
  std::vector<ReadingDoubt> doubts;
  TwoToneLadder ladder;
  DrivenAmplifier driven;

  std::vector<TypedProduct> products(std::size_t step) const {
    return products_of(steps[step].readings);
  }
};

inline TwoToneTest two_tone_of(const GeneralTest& loaded) {
  TwoToneTest t{loaded, {}, {}, {}, {}, {}, {}, {}};
  const TwoToneTake take = take_two_tone(loaded.evidence);
  t.settings = analysis_settings_of(loaded.evidence.settings);
  t.ladder_settings = take.settings;
  for (const auto& a : take.analyses)
    t.analyses.push_back(a != nullptr ? std::optional(*a) : std::nullopt);
  t.outputs = take.outputs;
  t.doubts = take.doubts;
  t.ladder = take.ladder;
  t.driven = take.driven;
  return t;
}

/// What somebody read off a screen at a step.
inline void set_products(Shack& shack, Id step, const std::vector<TypedProduct>& products) {
  std::vector<Reading> readings;
  std::vector<std::string> quantities{kDamagedReading};
  for (int order = 3; order <= 15; order += 2) quantities.push_back("im" + std::to_string(order));
  for (const TypedProduct& p : products) readings.push_back(to_reading(p));
  replace_typed_readings(shack, step, quantities, readings);
}

inline TwoToneTest load_two_tone_test(const Shack& shack, Id id) {
  return two_tone_of(*load_test(shack, id));
}

}  // namespace heron::testing
