#include "app/sheet/reminders.h"

#include <QTimer>

namespace heron {

void Reminders::remind_in(int minutes, const QString& what, long long evaluation, long long test) {
  auto* timer = new QTimer(this);
  timer->setSingleShot(true);
  connect(timer, &QTimer::timeout, this, [this, timer, what, evaluation, test] {
    timer->setParent(nullptr);
    timer->deleteLater();
    emit due(what, evaluation, test);
  });
  timer->start(minutes * minute_ms_);
}

void Reminders::forget_all() {
  qDeleteAll(findChildren<QTimer*>());
}

}  // namespace heron
