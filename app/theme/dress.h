#pragma once

class QApplication;

namespace heron {

/// Style, fonts and theme of the application; before the first window. False if a font is missing.
bool dress(QApplication& application, bool is_dark = false);

}  // namespace heron
