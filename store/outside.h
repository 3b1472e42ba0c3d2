#pragma once

#include <string>
#include <vector>

#include "core/quantity/figure.h"
#include "store/shack.h"

namespace heron {

/// What somebody else found of a device: a published test, its maker, another owner.
struct OutsideFigure {
  Id id = 0;
  Id device_id = 0;
  std::string characteristic;  ///< id in the method table
  Figure figure;
  std::string conditions;  ///< "14 MHz, 25 W"
  std::string source;      ///< "club test, spring"
  std::string at;          ///< UTC, ISO 8601
};

std::vector<OutsideFigure> outside_figures(const Shack& shack, Id device);
Id add_outside_figure(Shack& shack, const OutsideFigure& figure);
/// Keeps the row, so that it can come back.
void set_outside_figure_removed(Shack& shack, Id id, bool removed);

}  // namespace heron
