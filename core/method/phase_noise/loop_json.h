#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/measure/loop.h"

namespace heron {

/// A loop as a file describes it, in SI units; one for each charge-pump current where that is a
/// list. InputError naming what is missing or wrong.
std::vector<LoopDesign> parse_loops(std::string_view text, const std::string& name);

/// "0.3 mA does not lock: \u22124.1\u00b0 of phase margin."
Remark unstable_remark(const LoopDesign& loop, const LoopFigures& figures);
/// What is worth a word of one that locks: a reference too near, much peaking.
std::vector<Remark> loop_remarks(const LoopDesign& loop, const LoopFigures& figures);

}  // namespace heron
