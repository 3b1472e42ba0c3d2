#include "app/paint/age_text.h"

#include <QObject>

#include "store/clock.h"

namespace heron {

QString age_text(const std::string& taken_at) {
  const long long at = seconds_of(taken_at);
  if (at <= 0) return {};
  const long long days = (seconds_of(utc_now()) - at) / 86400;
  if (days < 1) return QObject::tr("today");
  if (days < 14) return QObject::tr("%1 d").arg(days);
  if (days < 70) return QObject::tr("%1 wk").arg(days / 7);
  return QObject::tr("%1 mo").arg(days * 12 / 365);
}

bool is_out_of_date(const std::string& taken_at) {
  const long long at = seconds_of(taken_at);
  return at > 0 && seconds_of(utc_now()) - at > 365LL * 86400;
}

}  // namespace heron
