#pragma once

#include <QPainter>

#include "app/theme/theme.h"
#include "core/judge/verdict.h"

namespace heron {

QColor verdict_colour(const Theme& theme, Verdict verdict);
QColor verdict_tint(const Theme& theme, Verdict verdict);
/// Silhouette of a verdict; an inner mark from 12 px up. The word must stand beside it. Hollow: it
/// is provisional.
void draw_verdict(QPainter& painter, QPointF centre, double size, Verdict verdict,
                  const Theme& theme, bool is_hollow = false);

}  // namespace heron
