#pragma once

#include <QAbstractItemModel>
#include <QString>

namespace heron::testing {

/// The column of a grid whose head begins so; -1 if there is none.
inline int grid_column(const QAbstractItemModel& model, const QString& head) {
  for (int c = 0; c < model.columnCount(); ++c)
    if (model.headerData(c, Qt::Horizontal, Qt::DisplayRole).toString().startsWith(head)) return c;
  return -1;
}

}  // namespace heron::testing
