#pragma once

#include "app/table/readings_model.h"
#include "app/table/typed_grid.h"

namespace heron {

/// The grid that the readings of a two-tone test are typed into.
class ReadingsGrid : public TypedGrid {
 public:
  explicit ReadingsGrid(QWidget* parent = nullptr);
  ReadingsModel* readings() { return static_cast<ReadingsModel*>(model()); }
};

}  // namespace heron
