#pragma once

#include "core/method/receiver/grid_compare.h"
#include "core/method/receiver/grid_order.h"
#include "core/method/receiver/grid_patterns.h"

namespace heron {

inline constexpr double kGridSpanDb = 20.0;

/// Bands by tests: each cell with its own verdict, what is left of each column at its foot, and
/// what the bands share. `compared`: nullptr = nothing.
ResultTable grid_table(const GridReading& grid, const GridOrder& order,
                       const GridPatterns& patterns, const ComparedGrid* compared);

}  // namespace heron
