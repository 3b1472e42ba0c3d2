#include "app/session/background_job.h"

#include <QException>
#include <QPromise>
#include <QtConcurrentRun>

#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {
namespace {

constexpr int kProgressSteps = 1000;

/// Throws what the work threw.
void rethrow_of(QFutureWatcher<void>& watcher) {
  try {
    watcher.waitForFinished();
  } catch (const QUnhandledException& wrapped) {
    if (wrapped.exception()) std::rethrow_exception(wrapped.exception());
    throw;
  }
}

}  // namespace

BackgroundJob::BackgroundJob(const QString& name, Work work, QObject* parent)
    : QObject(parent), name_(name), work_(std::move(work)) {
  thread_.setMaxThreadCount(1);
  connect(&watcher_, &QFutureWatcher<void>::progressValueChanged, this,
          [this](int value) { emit progressed(static_cast<double>(value) / kProgressSteps); });
  connect(&watcher_, &QFutureWatcher<void>::finished, this, &BackgroundJob::end);
}

BackgroundJob::~BackgroundJob() {
  stop_.request_stop();
  watcher_.disconnect(this);
  thread_.waitForDone();
}

void BackgroundJob::start() {
  watcher_.setFuture(QtConcurrent::run(
      &thread_, [work = work_, stop = stop_.get_token()](QPromise<void>& promise) {
        promise.setProgressRange(0, kProgressSteps);
        work(
            [&promise](double fraction) {
              promise.setProgressValue(static_cast<int>(fraction * kProgressSteps));
            },
            stop);
      }));
}

void BackgroundJob::end() {
  try {
    rethrow_of(watcher_);
  } catch (const Cancelled&) {
    emit cancelled();
    return;
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    return;
  } catch (const std::exception& error) {
    qWarning("%s: %s", qPrintable(name_), error.what());
    emit failed(tr("%1 could not be processed").arg(name_),
                tr("Try again; if it stays so, the file may be damaged"));
    return;
  }
  emit finished();
}

}  // namespace heron
