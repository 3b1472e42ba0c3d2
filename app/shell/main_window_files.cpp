// Files that come into the window and go out of it: shacks, exports, imports, signals.
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QMimeData>
#include <QSettings>
#include <QStackedWidget>
#include <cmath>

#include "app/export/exporter.h"
#include "app/live/live_plan.h"
#include "app/live/look_view.h"
#include "app/live/meter_watch.h"
#include "app/session/shack_edits.h"
#include "app/shell/main_window.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/signal/write_wav.h"
#include "store/exchange.h"

namespace heron {

bool MainWindow::open_shack(const QString& folder) {
  method_->look()->run()->end();
  method_->watch()->end();
  ladder_.end();
  queue_.cancel();
  // Left standing if the program does not survive the opening.
  QSettings settings;
  settings.setValue("shack/opening", folder);
  settings.sync();
  try {
    session_.open(folder);
    show_shack();
  } catch (const InputError& error) {
    messages_->complain(qt_text(error.what_happened()), qt_text(error.advice));
    settings.remove("shack/opening");
    if (settings.value("shack/folder") == folder) settings.remove("shack/folder");
    return false;
  }
  settings.remove("shack/opening");
  settings.setValue("shack/folder", folder);
  if (session_.shack().is_read_only())
    messages_->complain(qt_text(session_.shack().why_read_only()), {});
  else
    messages_->hide();
  return true;
}

void MainWindow::open_last_shack(const QString& usual) {
  QSettings settings;
  const QString unfinished = settings.value("shack/opening").toString();
  const QString folder = settings.value("shack/folder", usual).toString();
  settings.remove("shack/opening");
  if (!unfinished.isEmpty() && unfinished == folder) {
    settings.remove("shack/folder");
    messages_->complain(tr("The program ended while it opened %1").arg(folder),
                        tr("Open it again with Ctrl O, or another one"));
    return;
  }
  open_or_create_shack(folder, tr("My bench"));
}

bool MainWindow::open_or_create_shack(const QString& folder, const QString& place) {
  if (QFileInfo::exists(folder + "/shack.sqlite")) return open_shack(folder);
  try {
    session_.create(folder, place);
  } catch (const InputError& error) {
    messages_->complain(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
  QSettings().setValue("shack/folder", folder);
  show_shack();
  return true;
}

bool MainWindow::export_to(const QString& path) {
  method_->flush();
  try {
    if (path.endsWith(".zip", Qt::CaseInsensitive)) {
      const auto packed = std::make_shared<PackedEvaluation>(
          pack_with_report(session_.shack(), session_.evaluation_id()));
      return work_on(
          path, tr("Writing %1"),
          [packed, to = path.toStdString()](const Progress& progress, const std::stop_token& stop) {
            write_packed(*packed, to, progress, stop);
          },
          [this, path] { messages_->tell(tr("Saved %1").arg(path)); });
    }
    export_evaluation_file(session_.shack(), session_.evaluation_id(), path);
    messages_->tell(tr("Saved %1").arg(path));
    return true;
  } catch (const InputError& error) {
    messages_->complain(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
}

void MainWindow::write_signal(StimulusKind kind, const QString& path) {
  StimulusSettings settings;
  settings.kind = kind;
  if (const auto tones = recipe_of(session_.loaded()).tones_hz;
      tones && kind == StimulusKind::two_tone)
    settings.tones_hz = {tones->first, tones->second};
  work_on(
      path, tr("Writing %1"),
      [settings, to = path.toStdString()](const Progress&, const std::stop_token&) {
        write_wav(make_stimulus(settings), to);
      },
      [this, path] {
        messages_->tell(tr("Saved %1. %2").arg(path, qt_text(stimulus_path_advice())));
      });
}

void MainWindow::import_from(const QString& path) {
  if (session_.shack().is_read_only()) {
    messages_->complain(qt_text(session_.shack().why_read_only()), {});
    return;
  }
  const auto unpacked = std::make_shared<UnpackedEvaluation>();
  const auto captures = session_.shack().captures_folder();
  work_on(
      path, tr("Reading %1"),
      [=, from = path.toStdString()](const Progress& progress, const std::stop_token& stop) {
        *unpacked = unpack_evaluation(from, captures, progress, stop);
      },
      [this, unpacked, captures, path] {
        if (captures != session_.shack().captures_folder()) return;
        try {
          add_imported(QFileInfo(path).fileName(), unpacked);
        } catch (const InputError& error) {
          messages_->complain(qt_text(error.what_happened()), qt_text(error.advice));
        }
      });
}

void MainWindow::add_imported(const QString& name,
                              const std::shared_ptr<UnpackedEvaluation>& unpacked) {
  if (const auto same = same_evaluation(session_.shack(), *unpacked)) {
    if (!confirm(this, tr("This evaluation is here already"),
                 tr("%1 holds the same evaluation of the same device, begun at the same time.")
                     .arg(name),
                 tr("Import it once more"))) {
      show_evaluation(*same);
      return;
    }
  }
  const Id added = ShackEdits(session_).import_evaluation(name, unpacked);
  if (added == 0) return;  // the session has said why
  show_evaluation(added);
  messages_->tell(tr("Imported %1").arg(name));
}

bool MainWindow::work_on(const QString& path, const QString& words, BackgroundJob::Work work,
                         const std::function<void()>& then) {
  if (job_ != nullptr) {
    messages_->complain(tr("%1 is still being processed").arg(job_->name()),
                        tr("Wait for it, or stop it first"));
    return false;
  }
  job_ = new BackgroundJob(QFileInfo(path).fileName(), std::move(work), this);
  messages_->show_work(words.arg(job_->name()));
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    messages_->work_done();
  };
  connect(messages_, &MessageBar::stop_asked, job_, &BackgroundJob::cancel);
  connect(job_, &BackgroundJob::progressed, messages_, &MessageBar::set_progress);
  connect(job_, &BackgroundJob::finished, this, [end, then] {
    end();
    then();
  });
  connect(job_, &BackgroundJob::cancelled, this, [this, end] {
    const QString name = job_->name();
    end();
    messages_->tell(tr("Stopped; nothing of %1 was kept").arg(name));
  });
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& what, const QString& advice) {
            end();
            messages_->complain(what, advice);
          });
  job_->start();
  return true;
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  QStringList recordings;
  for (const QUrl& url : event->mimeData()->urls()) {
    const QString path = url.toLocalFile();
    if (!session_.is_open() && !QFileInfo(path).isDir()) continue;
    if (QFileInfo(path).isDir())
      open_shack(path);
    else if (path.endsWith(".zip", Qt::CaseInsensitive))
      import_from(path);
    else if (pages_->currentWidget() == bench_)
      bench_->take_files({path});
    else if (pages_->currentWidget() == page_)
      recordings << path;
    else
      messages_->complain(tr("%1 was dropped on the shack").arg(QFileInfo(path).fileName()),
                          tr("Open a test first, then drop the recording on its sheet"));
  }
  if (!recordings.isEmpty()) method_->add_recordings(recordings);
}

}  // namespace heron
