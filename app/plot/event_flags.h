#pragma once

#include <optional>
#include <qcustomplot.h>

#include "app/theme/theme.h"
#include "core/method/result.h"

namespace heron {

inline constexpr int kFlagRoom = 22;  ///< px above a picture for its flags

/// What happened in a picture, and how long: a flag above it, a line through it, and a bar over its
/// length. Flags that would stand over each other shrink to their number.
void draw_event_flags(QCPPainter& p, QCPAxisRect& rect, const PlotPanel& panel,
                      std::optional<std::size_t> chosen, const Theme& theme);

/// The shortest event that reaches over a place on x.
std::optional<std::size_t> event_at(const PlotPanel& panel, double x);

}  // namespace heron
