#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

/// Whether a layer is drawn here, not as points, curves or levels.
bool is_stem_mark(const PlotLayer& layer);

/// The masks, flags and stems of a panel: pieces of a mask with their levels, and as many levels of
/// stems in figures as there is room for, the worst first.
void draw_stem_marks(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                     std::optional<std::size_t> chosen, const Theme& theme);

}  // namespace heron
