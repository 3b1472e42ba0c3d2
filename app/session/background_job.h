#pragma once

#include <QFutureWatcher>
#include <QThreadPool>
#include <functional>

#include "core/progress.h"

namespace heron {

/// Work in a thread of its own, told about by signals; deleting the job stops it. What the work
/// makes goes into something shared that it captures, read after finished().
class BackgroundJob : public QObject {
  Q_OBJECT
 public:
  using Work = std::function<void(const Progress&, const std::stop_token&)>;
  /// `name` is the file worked on, for messages. `work` throws InputError or Cancelled.
  BackgroundJob(const QString& name, Work work, QObject* parent = nullptr);
  ~BackgroundJob() override;
  void start();
  void cancel() { stop_.request_stop(); }
  const QString& name() const { return name_; }

 signals:
  void progressed(double fraction);
  void finished();
  void cancelled();
  void failed(const QString& what, const QString& advice);

 private:
  void end();
  QString name_;
  Work work_;
  std::stop_source stop_;
  QThreadPool thread_;  ///< of one: what waits for an instrument must not hold up anything else
  QFutureWatcher<void> watcher_;
};

}  // namespace heron
