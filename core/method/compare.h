#pragma once

#include <optional>
#include <string>

#include "core/method/result.h"

namespace heron {

/// How an answer differs from another of the same kind, by more than its own uncertainty or not:
/// "3.2 ± 0.4 dB better than 30 W." What both share cancels only where they were taken on the same
/// hook-up; `better` says which way is. Empty where the two cannot be compared.
std::string comparison_words(const Answer& now, const Answer& then, Sense better,
                             bool is_same_hookup);

/// Of one quantity at two times, or of two devices: what they are off by in common cancels only
/// where they were read in the same way.
Figure change_between(Figure now, Figure then, bool is_on_same);
/// Of what may be off either way: how much farther off it is.
Figure change_of_error(Figure now, Figure then, bool is_on_same);
/// "better by 1.7 ± 0.6", "worse by 3 ± 1", "no difference"; where neither way is better only
/// how it changed: "+1.7 ± 0.6". `has_unit`: of the change behind it.
std::string change_words(Figure change, std::optional<bool> is_better, bool has_unit);

}  // namespace heron
