#pragma once

#include <string>
#include <vector>

#include "core/method/evidence.h"
#include "instrument/run_plan.h"

namespace heron {

/// What becomes of steps of a run that are read, not recorded. Belongs to the thread of the run.
class ReadingKeeper {
 public:
  virtual ~ReadingKeeper() = default;
  /// What a step gave, as it is kept.
  struct Kept {
    std::vector<Reading> readings;
    std::vector<Condition> conditions;
  };
  /// InputError where it cannot be kept.
  virtual Kept keep(const TakenStep& taken) = 0;
  /// Why a step of the run must not be keyed; empty if it may.
  virtual std::string objection(std::size_t /*run_step*/) const { return ""; }
};

}  // namespace heron
