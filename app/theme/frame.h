#pragma once

namespace heron {

/// Widths of the outer columns by the window's width.
inline int rail_width(int window) {
  return window < 1200 ? 212 : window < 1440 ? 240 : window < 1920 ? 256 : 272;
}
inline int right_column_width(int window) {
  return window < 1100   ? 216
         : window < 1200 ? 240
         : window < 1440 ? 262
         : window < 1920 ? 296
                         : 340;
}

}  // namespace heron
