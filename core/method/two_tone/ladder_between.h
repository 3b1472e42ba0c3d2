#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/method/two_tone/two_tone_ladder.h"

namespace heron {

/// One product order at one step, against output.
struct LadderPoint {
  double output_dbm = 0.0;
  double u_output_db = 0.0;
  double level_db = 0.0;  ///< the worse side, in the wanted convention
  double u_db = 0.0;
  bool is_bound = false;
  double floor_db = 0.0;  ///< noise in one RBW, same convention
  std::size_t row = 0;    ///< of the ladder
};

/// A product order over the ladder, from low to high output.
struct LadderTrace {
  int order = 3;
  std::vector<LadderPoint> points;
};

/// A trace for every order that any step has; steps without output or recording are left out.
std::vector<LadderTrace> ladder_traces(const std::vector<LadderStep>& steps,
                                       const std::string& convention);

/// What a trace says at an output within its steps: straight in dB over dB. Between steps the
/// larger uncertainty of the two neighbours holds, the part of it that the output's own uncertainty
/// makes through the slope, and how far the line may miss a curve. nullopt outside.
std::optional<Figure> level_at(const LadderTrace& trace, double output_dbm);

/// The worst product at an output.
struct WorstAt {
  Figure figure;
  int order = 3;
  bool is_between_steps = false;
  std::optional<int> unread_order;  ///< a needed one of which nothing is known there
};
std::optional<WorstAt> worst_at(const std::vector<LadderTrace>& traces, double output_dbm,
                                const std::string& convention);

/// The highest output up to which the worst product keeps to a limit, going down from the top.
struct OutputAtLimit {
  double output_dbm = 0.0;
  double u_db = 0.0;
  bool is_at_least = false;         ///< even the highest step keeps to it
  bool is_surely_at_least = false;  ///< with all of its uncertainty
  /// Up to here it keeps to it with all of its uncertainty, every needed order read; nullopt:
  /// nowhere.
  std::optional<double> sure_dbm;
  std::optional<int> unread_order;  ///< a needed one that nobody read at `output_dbm`
};
/// nullopt if no step keeps to it or there are none. `limit_db` in the traces' convention.
std::optional<OutputAtLimit> output_at_limit(const std::vector<LadderTrace>& traces,
                                             double limit_db);

}  // namespace heron
