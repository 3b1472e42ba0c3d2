#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/remark.h"
#include "store/device.h"
#include "store/evaluation.h"
#include "store/outside.h"

namespace heron {

/// A device's figure of one characteristic, and where it was found.
struct KnownFigure {
  Headline headline;
  std::optional<Limit> limit;
  std::string characteristic;
  std::string title;  ///< of its test
  std::string conditions;
  Id evaluation = 0;
  Id test = 0;
};
/// Of all evaluations, newest first, or of one, each in the order of its plan: the first of a
/// characteristic is what the shack shows of it.
std::vector<KnownFigure> known_figures(const Shack& shack, Id device,
                                       std::optional<Id> evaluation = std::nullopt);

/// What a change did to one characteristic.
struct StoryEffect {
  std::string what;   ///< "Gain 13.9 → 14.4 dB"
  std::string words;  ///< "better by 0.5 ± 0.1 dB", "no difference"
  std::optional<Judgement> after;
  std::optional<double> before_margin;
  double span = 20.0;
};

/// One thing in a device's life.
struct StoryRow {
  enum class Kind { evaluation, work, outside, note };
  Kind kind = Kind::note;
  std::string at;  ///< UTC, ISO 8601
  Id id = 0;       ///< of the evaluation, the work or the figure
  std::string title;
  std::string detail;
  Verdict verdict = Verdict::not_taken;  ///< of an evaluation: the worst of its figures
  std::optional<StoryEffect> effect = std::nullopt;
};

/// Newest first.
std::vector<StoryRow> device_story(const Shack& shack, Id device);

/// The characteristic that changed most by it: the last figure before against the first one after,
/// where no other work lies between; nullopt where nothing was measured on both sides.
std::optional<StoryEffect> effect_of(const std::vector<KnownFigure>& known,
                                     const std::vector<JournalEntry>& entries,
                                     const JournalEntry& work);

/// A figure from elsewhere beside the device's own, in the own one's convention; conditions that
/// differ come first. Empty where there is nothing to compare with, or they are not alike.
std::string beside_own(const OutsideFigure& outside, const std::vector<KnownFigure>& known);

/// What is worth knowing of it now: damage, figures older than the last work, retirement.
std::vector<Remark> device_remarks(const Shack& shack, const Device& device);
/// Where the specification says another limit of this kind than the test has; nullopt where it does
/// not, or the test is signed.
std::optional<Remark> limit_edited_remark(const Device& device, const Test& test);

}  // namespace heron
