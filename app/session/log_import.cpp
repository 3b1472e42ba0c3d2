#include "app/session/log_import.h"

#include <QFileInfo>
#include <algorithm>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/read_text.h"
#include "store/clock.h"
#include "store/series.h"
#include "store/step.h"

namespace heron {
namespace {

constexpr std::size_t kMostMegabytes = 512;
constexpr std::size_t kPiece = 20000;  // samples; some hundredths of a second on a slow disk
constexpr double kReadPart = 0.3;      // of the whole time

Series head_of(const Series& log) {
  Series head;
  head.quantity = log.quantity;
  head.unit = log.unit;
  head.instrument = log.instrument;
  head.started_at = log.started_at;
  head.remarks = log.remarks;
  return head;
}

}  // namespace

LogImport::LogImport(Session& session, QObject* parent) : QObject(parent), session_(session) {
  timer_.setInterval(0);
  connect(&timer_, &QTimer::timeout, this, [this] { is_dropping_ ? drop_piece() : write_piece(); });
  // Another shack has no such test.
  connect(&session_, &Session::shack_opened, this, &LogImport::forget);
}

void LogImport::add(const QString& path, Id test, Read read, Evidence against) {
  waiting_.push_back({path, QFileInfo(path).fileName(), test, read, std::move(against)});
  if (!is_busy_) next();
}

void LogImport::next() {
  if (waiting_.empty()) {
    is_busy_ = false;
    emit idle();
    return;
  }
  is_busy_ = true;
  now_ = std::move(waiting_.front());
  waiting_.pop_front();
  emit began(now_.name, static_cast<int>(waiting_.size()));
  logs_ = std::make_shared<std::vector<Series>>();
  job_ = new BackgroundJob(
      now_.name,
      [item = now_, logs = logs_](const Progress& progress, const std::stop_token& stop) {
        const CsvTable table =
            parse_csv(read_text(item.path.toStdString(), kMostMegabytes), item.name.toStdString());
        if (stop.stop_requested()) throw Cancelled();
        progress(0.5);
        *logs = item.read(table, item.against);
      },
      this);
  connect(job_, &BackgroundJob::progressed, this,
          [this](double fraction) { emit progressed(kReadPart * fraction); });
  const auto end = [this] { job_->deleteLater(); };
  connect(job_, &BackgroundJob::finished, this, [this, end] {
    end();
    begin_writing();
  });
  connect(job_, &BackgroundJob::cancelled, this, [this, end] {
    end();
    next();
  });
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& what, const QString& what_to_do) {
            end();
            emit failed(what, what_to_do);
            next();
          });
  job_->start();
}

/// Under a step that nobody sees yet.
void LogImport::begin_writing() {
  writing_ = {};
  for (const Series& log : *logs_) writing_.all += log.samples.size();
  try {
    Shack& shack = session_.shack();
    shack.write_together([&] {
      writing_.kept.step = add_step(shack, now_.test, now_.name.toStdString());
      set_step_removed(shack, writing_.kept.step, true);
      for (Series& log : *logs_) {
        if (log.started_at.empty()) log.started_at = utc_now();
        log.id = add_series(shack, writing_.kept.step, head_of(log));
        set_series_removed(shack, log.id, true);
        writing_.kept.series.push_back(log.id);
      }
    });
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    next();
    return;
  }
  is_dropping_ = false;
  timer_.start();
}

void LogImport::write_piece() {
  if (writing_.log == logs_->size()) {
    timer_.stop();
    show_whole();
    return;
  }
  const Series& log = (*logs_)[writing_.log];
  const std::size_t count = std::min(kPiece, log.samples.size() - writing_.written);
  const auto from = log.samples.begin() + static_cast<std::ptrdiff_t>(writing_.written);
  try {
    append_samples(session_.shack(), log.id, {from, from + static_cast<std::ptrdiff_t>(count)});
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    is_dropping_ = true;
    return;
  }
  writing_.written += count;
  writing_.all_written += count;
  if (writing_.written == log.samples.size()) {
    ++writing_.log;
    writing_.written = 0;
  }
  emit progressed(kReadPart + (1.0 - kReadPart) * static_cast<double>(writing_.all_written) /
                                  static_cast<double>(std::max<std::size_t>(1, writing_.all)));
}

void LogImport::show_whole() {
  // What was just written need not be read again.
  for (Series& log : *logs_)
    session_.shack().series().keep(std::make_shared<const Series>(std::move(log)));
  logs_.reset();
  if (!LogEdits(session_).show_logs(now_.test, now_.name, writing_.kept)) {
    is_dropping_ = true;  // the session has said why
    timer_.start();
    return;
  }
  emit told(tr("%1 readings of %2").arg(writing_.all).arg(now_.name));
  next();
}

/// As it was written, a piece at a time.
void LogImport::drop_piece() {
  bool is_more = false;
  try {
    for (const Id series : writing_.kept.series)
      if (!is_more) is_more = drop_samples(session_.shack(), series, kPiece);
  } catch (const InputError&) {
    is_more = false;  // they are of no use, and nobody sees them
  }
  if (is_more) return;
  timer_.stop();
  is_dropping_ = false;
  next();
}

void LogImport::cancel() {
  waiting_.clear();
  if (job_ != nullptr) job_->cancel();
  if (timer_.isActive()) is_dropping_ = true;
}

void LogImport::forget() {
  waiting_.clear();
  timer_.stop();
  if (job_ != nullptr) delete job_;
  logs_.reset();
  if (!std::exchange(is_busy_, false)) return;
  emit idle();
}

}  // namespace heron
