#pragma once

#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

inline constexpr int kStateHeight = 23;  ///< of a lane, with its distance

/// Lanes of states below a panel: tint, shape and word of each, its name at the left.
void draw_states(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                 const Theme& theme);

}  // namespace heron
