#pragma once

#include <QObject>

namespace heron {

/// Readings that are due later: a drift run by hand must not be forgotten. They end with the
/// program.
class Reminders : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;
  void remind_in(int minutes, const QString& what, long long evaluation, long long test);
  void forget_all();
  int waiting() const { return static_cast<int>(children().size()); }
  /// Of a minute, for tests.
  void set_minute_ms(int ms) { minute_ms_ = ms; }

 signals:
  void due(const QString& what, long long evaluation, long long test);

 private:
  int minute_ms_ = 60000;
};

}  // namespace heron
