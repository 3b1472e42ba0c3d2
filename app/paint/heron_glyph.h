#pragma once

#include <QPainter>

#include "app/theme/theme.h"

namespace heron {

/// The standing heron in a square box, at least 24 px.
void draw_heron(QPainter& painter, const QRectF& box, const Theme& theme);

}  // namespace heron
