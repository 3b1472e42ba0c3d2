#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/method/two_tone/driven_amplifier.h"
#include "core/method/two_tone/ladder_between.h"
#include "core/method/two_tone/two_tone.h"
#include "core/method/two_tone/two_tone_ladder.h"
#include "core/method/two_tone/two_tone_typed.h"
#include "store/planned.h"

namespace heron {

/// What the ladder as a whole is judged with; kept among a test's settings.
struct LadderSettings {
  std::optional<double> ceiling_dbm;  ///< most output that may be used, PEP
  std::string ceiling_typed;
  double reading_u_db = 0.5;  ///< standard uncertainty of a product read off a screen
};
LadderSettings ladder_settings_from_json(const nlohmann::json& settings);
/// `settings` with these in them.
nlohmann::json with_ladder_settings(nlohmann::json settings, const LadderSettings& ladder);

/// The same step with more attenuation before the recorder.
struct SelfTest {
  double added_db = 0.0;
  std::vector<SelfTestRow> rows;
};

/// A two-tone test as it stands in the shack: settings, evidence, results and what follows. Levels
/// are those at the device, through the hook-up that each recording was taken on.
struct TwoToneTest : PlannedTest {
  TwoToneSettings settings;
  LadderSettings ladder_settings;
  std::vector<std::optional<TwoToneAnalysis>> analyses;  ///< one a step; nullopt = not taken
  std::vector<std::optional<Figure>> outputs;            ///< one a step, dBm PEP at the device
  std::vector<std::optional<SelfTest>> self_tests;       ///< one a step
  std::vector<ReadingDoubt> doubts;                      ///< about what was typed
  TwoToneLadder ladder;
  std::string amplifier_name;  ///< driven behind it; empty = none
  DrivenAmplifier driven;

  /// Steps as evidence of a ladder; points into this.
  std::vector<LadderStep> evidence() const;
  /// The step that the test is judged by: the highest output taken, else the first taken.
  std::optional<std::size_t> headline_step() const;
};

TwoToneTest load_two_tone_test(const Shack& shack, Id test);
/// After a change in memory of steps, analyses, outputs or limit.
void reevaluate(TwoToneTest& test);
/// What the rail and the shack show of it; nullopt = nothing taken.
std::optional<Headline> headline_of(const TwoToneTest& test);

/// Writes into every recording of a test that has a hook-up and does not know its radio frequency
/// the one it is referred at now, so that another planned drive does not alter it. Returns which.
std::vector<Id> pin_frequencies(Shack& shack, Id test);
void unpin_frequencies(Shack& shack, const std::vector<Id>& step_captures);

/// The radio frequency at 0 Hz of a recording: its own, else the planned one.
std::optional<double> center_of(const TwoToneAnalysis& analysis, const std::optional<Drive>& drive);

}  // namespace heron
