#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <map>

#include "app/live/live_instruments.h"
#include "core/method/method.h"
#include "instrument/log_run.h"

namespace heron {

class SoundInput;

/// Logs instruments into a test, each reading on disk as soon as it comes: what was read survives
/// whatever happens to the program.
class LogKeeper : public QObject {
  Q_OBJECT
 public:
  LogKeeper(Session& session, LiveInstruments& bench, QObject* parent = nullptr);
  ~LogKeeper() override;
  /// Whether something answers that shows what the log is of.
  bool can_log(const LogRecipe& recipe) const;
  /// Into a step of that test; 0 = a new one.
  void start(Id test, Id step, const LogRecipe& recipe);
  void stop();
  /// At once; nothing is told.
  void end();
  bool is_running() const { return job_ != nullptr; }
  Id test_id() const { return test_; }
  /// When something happens that is noted now, in the time of the bench.
  std::string now() const;

 signals:
  void progressed(double fraction);
  void missed(const QString& why);
  void failed(const QString& what, const QString& what_to_do);
  void ended();

 private:
  void keep(int number, const LogSample& sample);
  void keep_stop(const LogSample& sample);
  void finish();
  Session& session_;
  LiveInstruments& bench_;
  SoundInput* sound_;
  BackgroundJob* job_ = nullptr;
  int number_ = 0;  ///< of the job
  Id test_ = 0;
  Id step_ = 0;
  LogRecipe recipe_;
  std::map<std::string, Id> series_;  ///< by quantity
  std::vector<Reading> at_stop_;      ///< of the stop that is just read
  std::string begun_at_;              ///< UTC, ISO 8601; empty before the first reading
  double seconds_ = 0.0;              ///< of the last reading, since then
  QElapsedTimer shown_;               ///< since the figures were asked for last
  qint64 pause_ms_ = 0;               ///< from then to the next time
};

}  // namespace heron
