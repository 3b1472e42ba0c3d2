#include "app/table/readings_grid.h"

#include "app/table/table_head.h"

namespace heron {

ReadingsGrid::ReadingsGrid(QWidget* parent)
    : TypedGrid(QObject::tr("Readings typed by hand"), new ReadingsModel, parent) {
  setItemDelegate(new ReadingsDelegate(this));
  set_columns({130, 156, 68, 68, 68, 68, -1});
  static_cast<TableHead*>(horizontalHeader())->set_left_column(ReadingsModel::kDoubt);
}

}  // namespace heron
