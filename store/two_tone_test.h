#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/method/driven_amplifier.h"
#include "core/method/ladder_between.h"
#include "core/method/two_tone.h"
#include "core/method/two_tone_ladder.h"
#include "core/method/two_tone_typed.h"
#include "store/evaluation.h"
#include "store/hookup.h"
#include "store/step.h"

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
struct TwoToneTest {
  Test test;
  TwoToneSettings settings;
  LadderSettings ladder_settings;
  std::vector<Step> steps;
  std::vector<std::optional<TwoToneAnalysis>> analyses;  ///< one a step; nullopt = not taken
  std::vector<std::optional<Figure>> outputs;            ///< one a step, dBm PEP at the device
  std::vector<std::optional<HookupVersion>> taken_on;    ///< one a step, aged to the day of taking
  std::vector<std::optional<SelfTest>> self_tests;       ///< one a step
  std::vector<ReadingDoubt> doubts;                      ///< about what was typed
  std::optional<HookupVersion> hookup;                   ///< for the next recording
  std::optional<ChainResult> planned;                    ///< its levels at the planned drive
  std::string not_planned;                               ///< why there are none, a sentence
  std::vector<Vouched> vouched;
  TwoToneLadder ladder;
  std::string amplifier_name;  ///< driven behind it; empty = none
  DrivenAmplifier driven;

  /// Steps as evidence of a ladder; points into this.
  std::vector<LadderStep> evidence() const;
  /// The step that the test is judged by: the highest output taken, else the first taken.
  std::optional<std::size_t> headline_step() const;
  /// Whether a recording may be taken: the hook-up is known to be safe at the planned drive, or
  /// somebody answers for it.
  bool may_be_keyed() const;
};

TwoToneTest load_two_tone_test(const Shack& shack, Id test);
/// After a change in memory of steps, analyses, outputs or limit.
void reevaluate(TwoToneTest& test);
/// Writes the headline that the rail and the shack show; returns the test it is drawn from.
TwoToneTest refresh_headline(Shack& shack, Id test);

/// Writes into every recording of a test that has a hook-up and does not know its radio frequency
/// the one it is referred at now, so that another planned drive does not alter it. Returns which.
std::vector<Id> pin_frequencies(Shack& shack, Id test);
void unpin_frequencies(Shack& shack, const std::vector<Id>& step_captures);

/// The radio frequency at 0 Hz of a recording: its own, else the planned one.
std::optional<double> center_of(const TwoToneAnalysis& analysis, const std::optional<Drive>& drive);

}  // namespace heron
