#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

/// Whether a layer is drawn here.
bool is_place_mark(const PlotLayer& layer);

/// What a ring there says, a line each; empty where none is.
QString ring_words_at(QCPAxisRect& rect, const PlotPanel& panel, QPointF place);

/// Places on the x axis that are worth a word, moments with their ±, and the handle that somebody
/// moves; it stands at `handle` where that is dragged just now.
void draw_places_behind(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                        std::optional<double> handle, const Theme& theme);
void draw_place_marks(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                      std::optional<double> handle, const Theme& theme);

}  // namespace heron
