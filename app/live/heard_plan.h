#pragma once

#include <vector>

#include "app/live/live_plan.h"
#include "core/method/run_recipe.h"

namespace heron {

/// Fills the plan of a receiver's test, band by band; where there are hands they tune it.
void fill_heard(const GeneralTest& t, const std::vector<int>& due, const RunRecipe& recipe,
                bool has_hands, LivePlan& plan);

}  // namespace heron
