#pragma once

#include <QString>
#include <cmath>

#include "app/theme/qt_text.h"
#include "core/chain/part.h"

namespace heron {

/// The day of a date or time.
inline QString day_of(const std::string& date) {
  return qt_text(date.substr(0, 10));
}

/// ± of the gain or level as known today, k = 2.
inline double expanded_today(const Part& part, const std::string& today) {
  return 2.0 * std::hypot(part.u_db, ageing_u_db(part.calibration, part.u_db, today));
}

}  // namespace heron
