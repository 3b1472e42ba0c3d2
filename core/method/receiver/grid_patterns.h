#pragma once

#include <optional>
#include <utility>
#include <vector>

#include "core/judge/remark.h"
#include "core/method/receiver/grid_reading.h"

namespace heron {

/// What bands that differ from the others say of where the loss is.
class GridPatterns {
 public:
  explicit GridPatterns(const GridReading& grid) : grid_(grid) {}

  /// Weak both ways by the same points to what both use; weak one way to that way.
  std::vector<Remark> remarks(const GridBand& band) const;
  /// From the middle of all bands, dB, where that is more than its U and a remark speaks of it.
  std::optional<double> departs(const GridBand& band, std::size_t column) const;

 private:
  /// The middle of a column, where enough of it is measured.
  std::optional<double> middle(std::size_t column) const;
  /// How much worse than the middle, with its U; nullopt where that is not known.
  std::optional<std::pair<double, double>> lack(const GridBand& band, std::size_t column,
                                                double sign) const;
  const GridReading& grid_;
};

}  // namespace heron
