#pragma once

#include <string>
#include <vector>

#include "core/method/amplifier/amplifier.h"
#include "core/method/result.h"

namespace heron {

/// One figure of two amplifiers, or of one before and after a change.
struct GainChange {
  std::string what;
  Figure now;
  Figure then;
  Figure change;  ///< now less then
  bool is_more_better = true;
};

/// Everything that both have: gain, 1 dB point, output at rated drive, efficiency and heat at the
/// highest common output, and output at each drive of the first that lies inside the second. Where
/// both were read in the same way, what that is off by cancels; else nothing does.
std::vector<GainChange> compare_gain(const Amplification& now, const Amplification& then,
                                     bool is_on_same);

/// "better by 0.5 \u00b1 0.1 dB", "no difference".
std::string change_words(const GainChange& change);

ResultTable comparison_table(const std::vector<GainChange>& changes, const std::string& then,
                             bool is_on_same);

}  // namespace heron
