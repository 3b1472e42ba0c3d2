#include "app/session/background_job.h"

#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {

BackgroundJob::BackgroundJob(const QString& name, Work work, QObject* parent)
    : QObject(parent), name_(name), work_(std::move(work)) {}

BackgroundJob::~BackgroundJob() {
  stop_.request_stop();
  if (thread_.joinable()) thread_.join();
}

void BackgroundJob::start() {
  thread_ = std::jthread([this] { run(); });
}

/// Signals leave from the job's own thread, whoever listens and how.
void BackgroundJob::say(std::function<void()> signal) {
  QMetaObject::invokeMethod(this, std::move(signal), Qt::QueuedConnection);
}

void BackgroundJob::run() {
  try {
    work_([this](double fraction) { say([this, fraction] { emit progressed(fraction); }); },
          stop_.get_token());
    say([this] { emit finished(); });
  } catch (const Cancelled&) {
    say([this] { emit cancelled(); });
  } catch (const InputError& error) {
    say([this, what = qt_text(error.what_happened()), advice = qt_text(error.advice)] {
      emit failed(what, advice);
    });
  } catch (const std::exception& error) {
    qWarning("%s: %s", qPrintable(name_), error.what());
    say([this, what = tr("%1 could not be processed").arg(name_),
         advice = tr("Try again; if it stays so, the file may be damaged")] {
      emit failed(what, advice);
    });
  }
}

}  // namespace heron
