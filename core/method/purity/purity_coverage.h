#pragma once

#include <vector>

#include "core/method/purity/purity_lines.h"

namespace heron {

/// Judges one line by every limit of the mask at its frequency, each with the uncertainty that goes
/// with it; the worst counts.
void judge_line(PurityLine& line, const Mask& mask, double carrier_hz,
                const std::optional<double>& carrier_dbm);

/// Where the mask says something and nobody can say whether it is kept: not looked at, a floor too
/// high, a limit that needs a power that is not known, and strong lines in gaps of the mask.
std::vector<Unjudged> unjudged_ranges(const PurityAnalysis& analysis,
                                      const std::vector<PurityScale>& scales);

/// "9 kHz to 13.3 MHz was not looked at; ..." for a remark.
std::string unjudged_text(const std::vector<Unjudged>& unjudged);

}  // namespace heron
