#pragma once

#include <QString>
#include <string>

#include "app/theme/qt_text.h"

namespace heron {

/// The day of a date or time.
inline QString day_of(const std::string& date) {
  return qt_text(date.substr(0, 10));
}

}  // namespace heron
