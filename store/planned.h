#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "store/evaluation.h"
#include "store/hookup.h"
#include "store/step.h"

namespace heron {

/// What every test has whatever it measures: its steps, and the hook-up that it is taken on.
struct PlannedTest {
  Test test;
  std::vector<Step> steps;
  std::vector<std::optional<HookupVersion>> taken_on;  ///< one a step, aged to the day of taking
  std::optional<HookupVersion> hookup;                 ///< for the next recording
  std::optional<ChainResult> planned;                  ///< its levels at the planned drive
  std::string not_planned;                             ///< why there are none, a sentence
  bool is_hookup_damaged = false;                      ///< its record cannot be read
  std::vector<Vouched> vouched;
  Id open_gate = 0;             ///< a test that has to be done before anything is keyed; 0 = none
  std::string open_gate_words;  ///< "First power: 5 of 7"

  /// Whether a recording may be taken: the hook-up is known to be safe at the planned drive, or
  /// somebody answers for it.
  bool may_be_keyed() const { return !keying_obstacle().has_value(); }
  /// Why not, and what to do.
  struct KeyingObstacle {
    std::string what;
    std::string what_to_do;
    bool is_unknown = false;    ///< a rating is missing, nothing is known to be exceeded
    bool is_checklist = false;  ///< checks are open; what was measured elsewhere may be kept
  };
  std::optional<KeyingObstacle> keying_obstacle() const;
  /// The same without the checks before power: what is keyed by hand, or was measured elsewhere,
  /// does not wait for them.
  std::optional<KeyingObstacle> hookup_obstacle() const;
};

/// Reads the hook-up of `t.test` and works out its levels at the planned drive.
void load_plan(const Shack& shack, PlannedTest& t);
/// What a step's recording was taken on, aged to that day; nullopt = levels as recorded, or damaged
/// (then named in the step).
std::optional<HookupVersion> taken_on(const Shack& shack, Step& step);
/// The same of one recording; InputError if damaged.
std::optional<HookupVersion> taken_on(const Shack& shack, const StepCapture& capture);

}  // namespace heron
