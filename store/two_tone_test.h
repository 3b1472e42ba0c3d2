#pragma once

#include <optional>
#include <vector>

#include "core/method/two_tone.h"
#include "core/method/two_tone_ladder.h"
#include "store/evaluation.h"
#include "store/step.h"

namespace heron {

/// A two-tone test as it stands in the shack: settings, evidence, results and what follows.
struct TwoToneTest {
  Test test;
  TwoToneSettings settings;
  std::vector<Step> steps;
  std::vector<std::optional<TwoToneAnalysis>> analyses;  ///< one a step; nullopt = not taken
  TwoToneLadder ladder;

  /// The step that the test is judged by: the highest output taken, else the first taken.
  std::optional<std::size_t> headline_step() const;
};

TwoToneTest load_two_tone_test(const Shack& shack, Id test);
/// After a change in memory of steps, analyses or limit.
void reevaluate(TwoToneTest& test);
/// Writes the headline that the rail and the shack show; returns the test it is drawn from.
TwoToneTest refresh_headline(Shack& shack, Id test);

/// Output of a step at the device in dBm PEP: as typed, else from the recording's full scale.
std::optional<Figure> step_output(const Step& step, const std::optional<TwoToneAnalysis>& analysis);

}  // namespace heron
