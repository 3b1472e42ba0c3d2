#pragma once

#include <QRectF>

#include "app/theme/theme.h"
#include "core/method/result_table.h"

class QPainter;

namespace heron {

/// A figure with its verdict over its margin line and age: its ± has to be looked for in a
/// column that is too narrow for it.
void draw_judged_cell(QPainter& p, const QRectF& cell, const TableCell& content, double span,
                      const Theme& theme);
/// What stands in place of several cells, and why.
void draw_words_cell(QPainter& p, const QRectF& cell, const ResultTable::Row::Words& words,
                     const Theme& theme);
/// What is left of a column; one that opens something is a link.
void draw_foot_cell(QPainter& p, const QRectF& cell, const TableCell& content, bool is_first,
                    const Theme& theme);

}  // namespace heron
