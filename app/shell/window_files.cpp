#include "app/shell/window_files.h"

#include <QDir>
#include <QFileDialog>
#include <QFileInfo>
#include <QSettings>
#include <QStandardPaths>

#include "app/export/exporter.h"
#include "app/live/live_plan.h"
#include "app/session/shack_edits.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/signal/write_wav.h"
#include "demo/demo_shack.h"
#include "store/exchange.h"

namespace heron {

namespace {

constexpr qsizetype kMostRecent = 6;

void remember(const QString& folder) {
  QStringList all = WindowFiles::recent();
  const QString path = QFileInfo(folder).absoluteFilePath();
  all.removeAll(path);
  all.prepend(path);
  QSettings().setValue("shack/recent", all.mid(0, kMostRecent));
}

}  // namespace

WindowFiles::WindowFiles(Session& session, MessageBar& messages, QWidget& window)
    : QObject(&window), session_(session), messages_(messages), window_(window) {}

bool WindowFiles::cancel() {
  if (job_ != nullptr) job_->cancel();
  return job_ != nullptr;
}

bool WindowFiles::open_shack(const QString& folder) {
  emit shack_leaves();
  // Left standing if the program does not survive the opening.
  QSettings settings;
  settings.setValue("shack/opening", folder);
  settings.sync();
  try {
    session_.open(folder);
    emit shack_opened();
  } catch (const InputError& error) {
    messages_.complain(qt_text(error.what_happened()), qt_text(error.advice));
    settings.remove("shack/opening");
    if (settings.value("shack/folder") == folder) settings.remove("shack/folder");
    return false;
  }
  settings.remove("shack/opening");
  settings.setValue("shack/folder", folder);
  remember(folder);
  if (session_.shack().is_read_only())
    messages_.complain(qt_text(session_.shack().why_read_only()), {});
  else
    messages_.hide();
  return true;
}

void WindowFiles::open_last_shack(const QString& usual) {
  QSettings settings;
  const QString unfinished = settings.value("shack/opening").toString();
  const QString folder = settings.value("shack/folder", usual).toString();
  settings.remove("shack/opening");
  if (!unfinished.isEmpty() && unfinished == folder) {
    settings.remove("shack/folder");
    messages_.complain(tr("The program ended while it opened %1").arg(folder),
                       tr("Open it again with Ctrl O, or another one"));
    return;
  }
  if (QFileInfo::exists(folder + "/shack.sqlite"))
    open_shack(folder);
  else if (folder != usual)
    messages_.complain(tr("The shack that was open last is not there: %1").arg(folder),
                       tr("Put its disk in and open it with Ctrl O, or begin another one"));
}

QStringList WindowFiles::recent() {
  return QSettings().value("shack/recent").toStringList();
}

void WindowFiles::open_demo() {
  const QString folder =
      QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/demo";
  if (QFileInfo::exists(folder + "/shack.sqlite")) {
    open_shack(folder);
    return;
  }
  // Under another name until it is whole.
  const QString part = folder + ".part";
  QDir(part).removeRecursively();
  QDir().mkpath(QFileInfo(folder).absolutePath());
  work_on(
      folder, tr("Making %1"),
      [part](const Progress& progress, const std::stop_token& stop) {
        try {
          demo::make_demo_shack(part.toStdString(), progress, stop);
        } catch (...) {
          QDir(part).removeRecursively();  // a part of it is of no use
          throw;
        }
      },
      [this, part, folder] {
        if (QDir().rename(part, folder))
          open_shack(folder);
        else
          messages_.complain(tr("%1 cannot be written").arg(folder), tr("Choose another folder"));
      });
}

bool WindowFiles::open_or_create_shack(const QString& folder, const QString& place) {
  if (QFileInfo::exists(folder + "/shack.sqlite")) return open_shack(folder);
  emit shack_leaves();
  try {
    session_.create(folder, place);
  } catch (const InputError& error) {
    messages_.complain(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
  QSettings().setValue("shack/folder", folder);
  remember(folder);
  emit shack_opened();
  return true;
}

bool WindowFiles::export_to(const QString& path) {
  try {
    const std::shared_ptr<const Shack> shack = session_.shack().reader();
    return work_on(
        path, tr("Writing %1"),
        [shack, evaluation = session_.evaluation_id(), path](const Progress& progress,
                                                             const std::stop_token& stop) {
          export_evaluation_file(*shack, evaluation, path, progress, stop);
        },
        [this, path] { messages_.tell(tr("Saved %1").arg(path)); });
  } catch (const InputError& error) {
    messages_.complain(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
}

void WindowFiles::write_signal(StimulusKind kind, const QString& path) {
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
        messages_.tell(tr("Saved %1. %2").arg(path, qt_text(stimulus_path_advice())));
      });
}

void WindowFiles::import_from(const QString& path) {
  if (session_.shack().is_read_only()) {
    messages_.complain(qt_text(session_.shack().why_read_only()), {});
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
          messages_.complain(qt_text(error.what_happened()), qt_text(error.advice));
        }
      });
}

void WindowFiles::add_imported(const QString& name,
                               const std::shared_ptr<UnpackedEvaluation>& unpacked) {
  if (const auto same = same_evaluation(session_.shack(), *unpacked)) {
    if (!confirm(&window_, tr("This evaluation is here already"),
                 tr("%1 holds the same evaluation of the same device, begun at the same time.")
                     .arg(name),
                 tr("Import it once more"))) {
      emit evaluation_asked(*same);
      return;
    }
  }
  const Id added = ShackEdits(session_).import_evaluation(name, unpacked);
  if (added == 0) return;  // the session has said why
  emit evaluation_asked(added);
  messages_.tell(tr("Imported %1").arg(name));
}

bool WindowFiles::work_on(const QString& path, const QString& words, BackgroundJob::Work work,
                          const std::function<void()>& then) {
  if (job_ != nullptr) {
    messages_.complain(tr("%1 is still being processed").arg(job_->name()),
                       tr("Wait for it, or stop it first"));
    return false;
  }
  job_ = new BackgroundJob(QFileInfo(path).fileName(), std::move(work), this);
  messages_.show_work(words.arg(job_->name()));
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    messages_.work_done();
  };
  connect(&messages_, &MessageBar::stop_asked, job_, &BackgroundJob::cancel);
  connect(job_, &BackgroundJob::progressed, &messages_, &MessageBar::set_progress);
  connect(job_, &BackgroundJob::finished, this, [end, then] {
    end();
    then();
  });
  connect(job_, &BackgroundJob::cancelled, this, [this, end] {
    const QString name = job_->name();
    end();
    messages_.tell(tr("Stopped; nothing of %1 was kept").arg(name));
  });
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& what, const QString& advice) {
            end();
            messages_.complain(what, advice);
          });
  job_->start();
  return true;
}

void WindowFiles::ask_for_shack() {
  const QString folder = QFileDialog::getExistingDirectory(&window_, tr("Open a shack"));
  if (!folder.isEmpty()) open_shack(folder);
}

void WindowFiles::ask_for_new_shack() {
  const QString folder =
      QFileDialog::getExistingDirectory(&window_, tr("An empty folder for the new shack"));
  if (folder.isEmpty()) return;
  const auto place =
      ask(&window_, tr("New shack"),
          tr("The whole collection of devices, evaluations and recordings lives in this folder."),
          tr("Name of the place"), tr("My bench"), tr("Create"), not_empty_name);
  if (place) open_or_create_shack(folder, *place);
}

void WindowFiles::ask_for_export(const QString& ending) {
  if (session_.evaluation_id() == 0) {
    messages_.complain(tr("Nothing to export here"), tr("Open an evaluation first"));
    return;
  }
  const Evaluation e = evaluation(session_.shack(), session_.evaluation_id());
  const Device d = device(session_.shack(), e.device_id);
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation);
  QString path = QFileDialog::getSaveFileName(
      &window_, tr("Export"), folder + "/" + qt_text(d.name + ", " + e.title) + "." + ending,
      ending.toUpper() + " (*." + ending + ")");
  if (path.isEmpty()) return;
  if (!path.endsWith("." + ending, Qt::CaseInsensitive)) path += "." + ending;
  export_to(path);
}

void WindowFiles::ask_for_import() {
  if (!session_.is_open()) return;
  const QString path = QFileDialog::getOpenFileName(&window_, tr("Import an evaluation"), {},
                                                    tr("Evaluations (*.zip)"));
  if (!path.isEmpty()) import_from(path);
}

void WindowFiles::ask_for_signal(StimulusKind kind) {
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
  QString path = QFileDialog::getSaveFileName(&window_, tr("Write a test signal"),
                                              folder + "/" + qt_text(stimulus_id(kind)) + ".wav",
                                              tr("WAV (*.wav)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(".wav", Qt::CaseInsensitive)) path += ".wav";
  write_signal(kind, path);
}

}  // namespace heron
