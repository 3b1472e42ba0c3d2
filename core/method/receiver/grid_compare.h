#pragma once

#include <string>

#include "core/method/receiver/grid_reading.h"
#include "core/method/result.h"

namespace heron {

/// Another receiver, or the same one at another time, beside this one.
struct ComparedGrid {
  GridReading then;
  std::string name;         ///< "Reedling 30, Before Skerry Point"
  bool is_on_same = false;  ///< what both are off by cancels

  const GridBand* band(const GridBand& now) const;  ///< nullptr if it was not measured
};

/// The other one's margin at the same limit, as a ring beside this one's.
std::optional<double> margin_then(const ComparedGrid& with, const GridBand& now,
                                  std::size_t column);

/// Its columns behind this one's, in a window that is wide enough for both.
void add_columns_then(const ComparedGrid& with, const GridReading& now, ResultTable& table);

/// By how much each cell differs, and which way is better.
ResultTable grid_comparison(const ComparedGrid& with, const GridReading& now);

}  // namespace heron
