#include "app/hookup/label_room.h"

#include <algorithm>

namespace heron {

void LabelRoom::clear(const QRectF& bounds) {
  bounds_ = bounds;
  taken_.clear();
  blocked_.clear();
}

bool LabelRoom::is_free(const QRectF& place) const {
  const auto meets = [&](const QRectF& other) { return other.intersects(place); };
  return std::none_of(taken_.begin(), taken_.end(), meets) &&
         std::none_of(blocked_.begin(), blocked_.end(), meets);
}

QRectF LabelRoom::take(QRectF wanted) {
  constexpr double kStep = 3.0;
  QRectF place = wanted;
  for (int i = 0; i < 400 && !is_free(place); ++i) {
    const int steps = i / 2 + 1;
    const double away = kStep * steps * (i % 2 == 0 ? 1.0 : -1.0);
    const QRectF tried = wanted.translated(0.0, away);
    if (tried.top() >= bounds_.top() && tried.bottom() <= bounds_.bottom()) place = tried;
  }
  taken_.push_back(place);
  return place;
}

}  // namespace heron
