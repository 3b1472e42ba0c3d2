#pragma once

#include <QAbstractItemModel>
#include <QRectF>

#include "app/theme/theme.h"
#include "core/method/result_table.h"

class QPainter;

namespace heron {

/// The lanes of one row of a table: a part that the rows above and below have too is one bar over
/// all of them, of which this row paints its piece.
void draw_parts_cell(QPainter& p, const QRectF& cell, const ResultTable& table, std::size_t row,
                     std::size_t column, const Theme& theme);
/// What the lanes are, over them.
void draw_parts_head(QPainter& p, const QRectF& head, const TableColumn& column,
                     const Theme& theme);

}  // namespace heron
