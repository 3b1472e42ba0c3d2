#pragma once

#include <string>
#include <vector>

#include "app/live/reading_keeper.h"
#include "core/method/method.h"
#include "store/general.h"

namespace heron {

/// What becomes of levels that a run reads: kept as readings of the method, and looked at before
/// the next step is keyed.
class LevelKeeper : public ReadingKeeper {
 public:
  LevelKeeper(const GeneralTest& test, RunRecipe::Levels levels, std::vector<int> steps,
              std::vector<ReadingRole> roles, bool is_by_meter);
  /// InputError where it cannot be referred to the device.
  Kept keep(const TakenStep& taken) override;
  std::string objection(std::size_t run_step) const override;

 private:
  const Method* method_;
  RunRecipe::Levels levels_;
  std::vector<int> steps_;  ///< of the evidence, one a step of the run
  std::vector<ReadingRole> roles_;
  bool is_by_meter_;
  Evidence evidence_;  ///< as far as it was measured
};

}  // namespace heron
