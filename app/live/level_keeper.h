#pragma once

#include <string>
#include <vector>

#include "core/method/method.h"
#include "instrument/run_plan.h"
#include "store/general.h"

namespace heron {

/// What becomes of levels that a run reads: kept as readings of the method, and looked at before
/// the next step is keyed. Belongs to the thread of the run.
class LevelKeeper {
 public:
  LevelKeeper(const GeneralTest& test, RunRecipe::Levels levels, std::vector<int> steps,
              std::vector<ReadingRole> roles, bool is_by_meter);
  /// What a step gave, as it is kept. InputError where it cannot be referred to the device.
  struct Kept {
    std::vector<Reading> readings;
    std::vector<Condition> conditions;
  };
  Kept keep(const TakenStep& taken);
  /// Why a step of the run must not be keyed; empty if it may.
  std::string objection(std::size_t run_step) const;

 private:
  const Method* method_;
  RunRecipe::Levels levels_;
  std::vector<int> steps_;  ///< of the evidence, one a step of the run
  std::vector<ReadingRole> roles_;
  bool is_by_meter_;
  Evidence evidence_;  ///< as far as it was measured
};

}  // namespace heron
