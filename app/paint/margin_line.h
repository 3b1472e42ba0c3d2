#pragma once

#include <QPainter>
#include <optional>

#include "app/theme/theme.h"
#include "core/judge/verdict.h"

namespace heron {

enum class MarginSize { tiny, cell, large };

/// How far a figure is from its limit; right of the limit is always the good side.
struct MarginMark {
  Verdict verdict = Verdict::not_taken;
  double margin = 0.0;
  double expanded = 0.0;
  Bound bound = Bound::none;
  std::optional<double> before;  ///< margin at an earlier time
};

/// Place of a margin on the gauge, 0..1 of its inner width; the limit is at 0.36. Opens up round
/// the limit, closes far away.
double margin_position(double margin, double span);

void draw_margin_line(QPainter& painter, const QRectF& box, MarginSize size, const MarginMark& mark,
                      double span, const Theme& theme);

}  // namespace heron
