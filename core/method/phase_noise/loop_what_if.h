#pragma once

#include "core/method/evidence.h"
#include "core/method/phase_noise/loop_settings.h"
#include "core/method/what_if.h"

namespace heron {

/// What of a loop may be tried otherwise: its own parts, then what makes noise by its supply. As it
/// is built it runs at `current_a`.
std::vector<WhatIf> loop_what_ifs(const LoopPlan& plan, double current_a);

/// The charge-pump current that is in use: what the family in the same evaluation says, else the
/// first.
double loop_current_in_use(const Evidence& evidence, const LoopPlan& plan);

/// All settings of the test after a move; InputError where what was typed is none.
nlohmann::json loop_tried(const Evidence& evidence, const WhatIfMove& move);

}  // namespace heron
