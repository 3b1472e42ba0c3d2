#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/judge/mask.h"
#include "core/method/measure/lowpass.h"
#include "core/method/result.h"

namespace heron {

/// A line that a filter is wanted for, as it is told.
struct FilterLine {
  double frequency_hz = 0.0;
  std::string name;
  std::optional<Judgement> judgement;
};

/// A carrier with its lines and mask, and what filters would do.
struct FilterCase {
  double carrier_hz = 0.0;
  std::optional<double> carrier_dbm;
  Mask mask;
  std::vector<FilterLine> lines;
  std::vector<FilterAdvice> advice;
};

/// Filters to look through, the lowest order that is enough first; nullopt without advice.
std::optional<ProposalCard> filter_card(const FilterCase& of);

}  // namespace heron
