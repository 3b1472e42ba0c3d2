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

void BackgroundJob::run() {
  try {
    work_([this](double fraction) { emit progressed(fraction); }, stop_.get_token());
    emit finished();
  } catch (const Cancelled&) {
    emit cancelled();
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  } catch (const std::exception& error) {
    emit failed(name_ + ": " + QString::fromUtf8(error.what()),
                tr("Try again; if it stays so, the file may be damaged"));
  }
}

}  // namespace heron
