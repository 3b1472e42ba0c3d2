#pragma once

#include <vector>

#include "core/method/amplifier/amplifier.h"

namespace heron {

/// What has to be said of a series of drive steps: of rows that cannot be used, of the supply, of
/// levels that look like an offset, of what the series could not show.
std::vector<Remark> amplifier_remarks(const std::vector<DrivenStep>& steps, const Amplification& a,
                                      const AmplifierPlan& plan, bool is_in_order);

/// A level so many dB off what was expected, named by what it looks like; empty if by nothing.
std::string offset_words(double off_db, const AmplifierPlan& plan);

}  // namespace heron
