#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/limit.h"
#include "core/judge/remark.h"
#include "core/method/two_tone/driven_amplifier.h"
#include "core/method/two_tone/ladder_between.h"

namespace heron {

/// What a ladder as a whole says beyond its steps.
struct LadderAdvice {
  std::optional<OutputAtLimit> at_limit;      ///< highest output that keeps to the limit
  std::optional<WorstAt> at_ceiling;          ///< worst product at the chosen ceiling
  std::optional<double> advised_ceiling_dbm;  ///< so that a driven amplifier keeps to the limit too
  std::vector<Remark> remarks;
};

/// `limit` in the traces' convention; `amplifier` is the name of what is driven, empty = nothing.
LadderAdvice advise_ladder(const std::vector<LadderTrace>& traces,
                           const std::optional<Limit>& limit, std::optional<double> ceiling_dbm,
                           const DrivenAmplifier& driven, const std::string& amplifier);

/// What the ladder and the advice say together: about the highest output that passes only once.
std::vector<Remark> ladder_remarks(std::vector<Remark> ladder, const LadderAdvice& advice);

}  // namespace heron
