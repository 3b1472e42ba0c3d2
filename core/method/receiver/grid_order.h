#pragma once

#include <optional>
#include <string>

#include "core/method/receiver/grid_reading.h"

namespace heron {

struct GridPlace {
  std::size_t band = 0;
  std::size_t column = 0;
  bool operator==(const GridPlace&) const = default;
};

/// In which order a grid is filled: a test over all bands, or a band in all tests.
class GridOrder {
 public:
  explicit GridOrder(const GridReading& grid) : grid_(grid) {}

  /// What decides something, else the first that is missing.
  std::optional<GridPlace> next() const;
  /// Gain of a weak band, where loss in front and loss behind are to be told apart.
  bool decides(GridPlace at) const;
  /// "by test 12 min, by band 20 min"; empty where nothing is to do.
  std::string cost_words() const;
  /// Of the three that tell where a receiver loses.
  std::optional<std::size_t> missing_test() const;

 private:
  std::vector<GridPlace> to_do(bool is_by_band) const;
  int minutes(bool is_by_band) const;

  const GridReading& grid_;
};

}  // namespace heron
