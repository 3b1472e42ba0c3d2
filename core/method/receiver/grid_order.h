#pragma once

#include <optional>
#include <string>
#include <vector>

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

  /// The first cell of the first entry of the list.
  std::optional<GridPlace> next() const;
  /// What is best measured next, at most three entries; nothing to do = none.
  std::optional<NextList> list() const;
  /// Of a column, or of a band in all columns: "2 cells, 5 + 4 min"; empty where nothing is to do.
  std::string left_of_column(std::size_t column) const;
  std::string left_of_band(std::size_t band) const;

 private:
  struct Cost {
    int minutes = 0;
    int changes = 0;  ///< of the hook-up
  };
  std::vector<GridPlace> to_do(bool is_by_band) const;
  /// Gain of a weak band, where loss in front and loss behind are to be told apart.
  bool decides(GridPlace at) const;
  static Cost cost(const std::vector<GridPlace>& order);
  /// Cells that are measured together, and what that is for.
  struct Group {
    std::vector<GridPlace> places;
    std::string why;
  };
  std::vector<Group> ranked() const;  ///< the most telling first
  NextList::Entry entry(const Group& group) const;
  void add_missing_test(NextList& list) const;

  const GridReading& grid_;
};

}  // namespace heron
