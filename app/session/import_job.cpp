#include "app/session/import_job.h"

#include "app/theme/qt_text.h"
#include "core/error.h"

namespace heron {

ImportJob::ImportJob(std::filesystem::path file, std::filesystem::path captures_folder,
                     TwoToneSettings settings, Id test, Id step, QObject* parent)
    : QObject(parent),
      file_(std::move(file)),
      captures_folder_(std::move(captures_folder)),
      settings_(std::move(settings)),
      test_(test),
      step_(step) {}

ImportJob::~ImportJob() {
  stop_.request_stop();
  if (thread_.joinable()) thread_.join();
}

QString ImportJob::file_name() const {
  return qt_text(file_.filename().string());
}

void ImportJob::start() {
  thread_ = std::jthread([this] { run(); });
}

void ImportJob::run() {
  try {
    // Copying is the smaller part of the work.
    stored_ = store_capture(
        captures_folder_, capture_opener(file_), [this](double f) { emit progressed(0.3 * f); },
        stop_.get_token());
    const auto copy = captures_folder_ / (stored_.hash + ".sigmf-meta");
    analysis_ = analyse_two_tone(
        capture_opener(copy), settings_, [this](double f) { emit progressed(0.3 + 0.7 * f); },
        stop_.get_token());
    // Cautions about the file itself were about the original, not about our copy of it.
    for (const std::string& text : stored_.info.cautions)
      analysis_.remarks.push_back({"file", Severity::caution, text, ""});
    sort_remarks(analysis_.remarks);
    emit finished();
  } catch (const Cancelled&) {
    emit cancelled();
  } catch (const InputError& error) {
    const std::string where = error.place.empty() ? "" : ", " + error.place;
    emit failed(qt_text(error.subject + where), qt_text(error.reason), qt_text(error.advice));
  } catch (const std::exception& error) {
    emit failed(file_name(), QString::fromUtf8(error.what()),
                tr("Try again; if it stays so, the recording may be damaged"));
  }
}

}  // namespace heron
