#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "core/method/two_tone/driven_amplifier.h"
#include "core/method/two_tone/ladder_advice.h"
#include "core/method/two_tone/ladder_settings.h"
#include "core/method/two_tone/two_tone_ladder.h"
#include "core/method/two_tone/two_tone_typed.h"

namespace heron {

/// One recording or trace of two tones as it is kept.
class TwoToneRecord : public Analysis {
 public:
  explicit TwoToneRecord(TwoToneAnalysis a) : analysis(std::move(a)) {}
  TwoToneAnalysis analysis;
  const KeyedParts* parts() const override { return analysis.parts ? &*analysis.parts : nullptr; }
  std::optional<RecorderLoad> load() const override;
};

/// A two-tone test as its evidence tells it: levels are those at the device, through the hook-up
/// that each recording was taken on.
struct TwoToneTake {
  std::vector<std::string> labels;
  std::vector<std::shared_ptr<const TwoToneAnalysis>> analyses;  ///< one a step; nullptr: not taken
  std::vector<std::optional<Figure>> outputs;  ///< one a step, dBm PEP at the device
  std::vector<ReadingDoubt> doubts;            ///< about what was typed
  LadderSettings settings;
  std::string convention;      ///< that figures are shown in
  std::optional<Limit> limit;  ///< in its own
  TwoToneLadder ladder;
  std::string amplifier;  ///< driven behind it; empty = none
  DrivenAmplifier driven;
  LadderAdvice advice;

  /// Steps as evidence of a ladder; points into this.
  std::vector<LadderStep> steps() const;
  /// The step that the test is judged by: the highest output taken, else the first taken.
  std::optional<std::size_t> headline_step() const;
  /// The limit as the shown convention has it for equal tones.
  std::optional<Limit> shown_limit() const;
};

TwoToneTake take_two_tone(const Evidence& evidence);
/// What holds for the whole of it, doubts about single readings too.
std::vector<Remark> remarks_of(const TwoToneTake& take);

/// The radio frequency at 0 Hz of a recording: its own, else the planned one.
std::optional<double> center_of(const TwoToneAnalysis& analysis, const std::optional<Drive>& drive);

}  // namespace heron
