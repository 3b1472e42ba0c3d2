#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

/// Stretches of the lower axis, behind what is drawn over it: `room` px beside the panel are for
/// the words of a caution.
void draw_ranges(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel, int room,
                 std::optional<std::size_t> chosen, const Theme& theme);
/// A width at the top, with its words.
void draw_brackets(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                   std::optional<std::size_t> chosen, const Theme& theme);
/// The widest place on a lane of its own, the others below it; a name inside its bar where that
/// is wide enough, else beside it.
void draw_lanes(QCPPainter& painter, QCPAxisRect& rect, const PlotPanel& panel,
                std::optional<std::size_t> chosen, const Theme& theme);

}  // namespace heron
