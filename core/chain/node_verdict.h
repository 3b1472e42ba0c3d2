#pragma once

#include <optional>
#include <string>

#include "core/chain/chain.h"
#include "core/judge/verdict.h"

namespace heron {

/// Where a level lies in the input range of an instrument, where that is what binds.
enum class RangePlace { not_bound, inside, too_low, too_high };

/// Whether one node of a chain is within its ratings. A part: pass under its average and peak
/// rating; too close over the average rating as long as the thermal model allows the planned
/// key-down, or within its uncertainty of a rating; fail otherwise. An end: pass inside its input
/// range; too close if usable outside it; fail above full scale or its damage level.
struct NodeVerdict {
  Verdict verdict = Verdict::not_taken;  ///< not_taken: nothing is stated to judge by
  std::optional<double> margin_db;       ///< to what binds; average ratings count from the mean
  std::optional<double> limit_dbm;       ///< what binds
  bool is_average = false;               ///< it binds the mean power, not the envelope
  RangePlace range = RangePlace::not_bound;
  std::string limit;  ///< "10 W average: 2:10 min max"
};

NodeVerdict judge_node(const Part& part, const ChainNode& node, const Drive& drive);

/// Whether every part of a chain is within its ratings: fail only where one is over a rating with
/// all of its uncertainty.
Verdict rating_verdict(const ChainResult& result);

}  // namespace heron
