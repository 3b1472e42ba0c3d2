#pragma once

#include <QPen>

#include "app/theme/theme.h"

namespace heron {

/// Pen of trace 1..6: the same identity and dash in both themes, safe for colour-blind eyes.
inline QPen trace_pen(const Theme& theme, int number, bool alone = false) {
  struct Trace {
    const char* light;
    const char* dark;
    double width;
    QList<qreal> dashes;
  };
  static const Trace traces[6] = {{"#24627F", "#78B7D3", 1.8, {}},
                                  {"#D96A1C", "#F5A742", 1.6, {5, 3}},
                                  {"#5A5E1C", "#71862A", 1.8, {1, 2.2}},
                                  {"#9A57BE", "#A05CC4", 1.8, {10, 3}},
                                  {"#87394B", "#BF4A66", 1.8, {7, 2.5, 1, 2.5}},
                                  {"#84978A", "#DADFC4", 1.8, {2.5, 2.5}}};
  const Trace& trace = traces[(number - 1) % 6];
  QPen pen(QColor(theme.is_dark ? trace.dark : trace.light), alone ? 1.25 : trace.width);
  if (!alone && !trace.dashes.isEmpty()) pen.setDashPattern(trace.dashes);
  return pen;
}

}  // namespace heron
