#pragma once

#include <cstddef>
#include <span>
#include <vector>

namespace heron {

/// A stretch of a power-over-time record with about the same level, cells first .. first + count.
struct LevelStretch {
  std::size_t first = 0;
  std::size_t count = 0;
  double power = 0.0;       ///< mean
  double scatter_db = 0.0;  ///< standard deviation from cell to cell
};

/// Standard deviation from neighbour to neighbour, robust against steps between them.
double neighbour_scatter(std::span<const double> db);

/// Cells whose scatter needs smoothing are joined in this many, so that speech and narrow noise
/// do not look like keying.
std::size_t cells_to_join(std::span<const double> power, double cell_s);

/// Power per cell cut where the level steps abruptly by at least 0.3 dB (or by what stands out of
/// its own scatter): joining neighbours that explain each other best (Ward 1963) as long as the
/// scatter allows it. A slow drift is not cut. In order of time, all cells covered.
std::vector<LevelStretch> level_stretches(std::span<const double> power);

}  // namespace heron
