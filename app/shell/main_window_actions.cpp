// What the window's menus and the command box offer; the composition is in main_window.cpp.
#include <QApplication>
#include <QFileDialog>
#include <QLocale>
#include <QStandardPaths>

#include "app/session/shack_edits.h"
#include "app/session/test_edits.h"
#include "app/shell/main_window.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "store/cleanup.h"

namespace heron {
namespace {

QString not_empty(const QString& text) {
  return text.isEmpty() ? QObject::tr("Type a name.") : QString();
}

}  // namespace

namespace {

std::vector<std::pair<StimulusKind, QString>> test_signals() {
  return {{StimulusKind::two_tone, MainWindow::tr("two tones")},
          {StimulusKind::tone, MainWindow::tr("one tone")},
          {StimulusKind::notched_noise, MainWindow::tr("noise with a notch")},
          {StimulusKind::speech_noise, MainWindow::tr("speech-shaped noise")}};
}

}  // namespace

void MainWindow::fill_menus() {
  QMenu* menu = header_->menu();
  const auto add = [&](const QString& name, const char* keys, auto action) {
    menu->addAction(name + (*keys ? "\t" + QString(keys) : QString()), this, action);
  };
  add(tr("Open a shack\u2026"), "Ctrl+O", [this] { ask_for_shack(); });
  add(tr("New shack\u2026"), "", [this] { ask_for_new_shack(); });
  add(tr("Import an evaluation\u2026"), "", [this] { ask_for_import(); });
  QMenu* signals_menu = menu->addMenu(tr("Write a test signal"));
  for (const auto& [kind, name] : test_signals())
    signals_menu->addAction(name + QString::fromUtf8("\u2026"), this,
                            [this, k = kind] { ask_for_signal(k); });
  menu->addSeparator();
  add(tr("Undo"), "Ctrl+Z", [this] { undo(); });
  add(tr("Redo"), "Ctrl+Shift+Z", [this] { redo(); });
  add(tr("Clean up recordings\u2026"), "", [this] { ask_to_clean_up(); });
  menu->addSeparator();
  add(tr("Dark theme on or off"), "Ctrl+T", [this] { set_dark(!is_dark()); });
  add(tr("The bench"), "Ctrl+B", [this] { show_bench(); });
  add(tr("Level converter"), "Ctrl+L", [this] { open_level_desk(); });
  add(tr("Find or run\u2026"), "Ctrl+K", [this] { commands_->open(commands()); });
  menu->addSeparator();
  add(tr("About Even Heron"), "", [this] { show_about(); });
  add(tr("Quit"), "Ctrl+Q", [this] { close(); });
  QMenu* exports = rail_->export_menu();
  exports->addAction(tr("Report as PDF\u2026\tCtrl+E"), this, [this] { ask_for_export("pdf"); });
  exports->addAction(tr("Report as HTML\u2026"), this, [this] { ask_for_export("html"); });
  exports->addAction(tr("Figures as CSV\u2026"), this, [this] { ask_for_export("csv"); });
  exports->addAction(tr("Figures as JSON\u2026"), this, [this] { ask_for_export("json"); });
  exports->addSeparator();
  exports->addAction(tr("Whole evaluation with recordings\u2026"), this,
                     [this] { ask_for_export("zip"); });
}

void MainWindow::fill_device_menu() {
  QMenu* menu = header_->device_chip()->menu();
  menu->clear();
  for (const Device& d : devices(session_.shack())) {
    for (const Evaluation& e : evaluations(session_.shack(), d.id)) {
      menu->addAction(qt_text(d.name + ": " + e.title), this,
                      [this, id = e.id] { show_evaluation(id); });
    }
  }
}

std::vector<Command> MainWindow::commands() {
  std::vector<Command> list;
  if (!session_.is_open()) {
    list.push_back({tr("Open a shack"), tr("do"), "Ctrl O", [this] { ask_for_shack(); }});
    list.push_back({tr("New shack"), tr("do"), {}, [this] { ask_for_new_shack(); }});
    list.push_back(
        {tr("Dark theme on or off"), tr("do"), "Ctrl T", [this] { set_dark(!is_dark()); }});
    list.push_back({tr("Quit"), tr("do"), "Ctrl Q", [this] { close(); }});
    return list;
  }
  const bool in_evaluation = pages_is_evaluation();
  for (const Device& d : devices(session_.shack())) {
    for (const Evaluation& e : evaluations(session_.shack(), d.id)) {
      list.push_back({qt_text(d.name + ", " + e.title), tr("device"), {}, [this, id = e.id] {
                        show_evaluation(id);
                      }});
      for (const Test& t : tests(session_.shack(), e.id)) {
        list.push_back(
            {qt_text(t.title + ", " + d.name + ", " + e.title),
             tr("test"),
             {},
             [this, evaluation = e.id, test = t.id] { show_evaluation(evaluation, test); }});
      }
    }
    list.push_back(
        {tr("Start an evaluation of %1").arg(qt_text(d.name)), tr("do"), {}, [this, id = d.id] {
           ask_for_evaluation(id);
         }});
    list.push_back({tr("Edit or rename %1").arg(qt_text(d.name)), tr("do"), {}, [this, id = d.id] {
                      ask_to_edit_device(id);
                    }});
    list.push_back({tr("Remove %1").arg(qt_text(d.name)), tr("do"), {}, [this, id = d.id] {
                      ask_to_remove_device(id);
                    }});
  }
  const auto add = [&](const QString& name, const QString& keys, std::function<void()> run) {
    list.push_back({name, tr("do"), keys, std::move(run)});
  };
  add(tr("Go to the shack"), "Ctrl 0", [this] { show_shack(); });
  add(tr("Go to the bench"), "Ctrl B", [this] { show_bench(); });
  add(tr("Level converter"), "Ctrl L", [this] { open_level_desk(); });
  add(live_.is_simulated() ? tr("Back to the real bench") : tr("Use the simulated bench"), {},
      [this] { live_.use_simulation(!live_.is_simulated()); });
  for (const RoleKind& kind : role_kinds()) {
    const QString title = qt_text(std::string(kind.title));
    add(tr("Connect or test: %1").arg(title), {}, [this, role = kind.role] {
      show_bench();
      panel_->open_for(role, QPoint(width() - 280, 120));
    });
  }
  for (const BenchEntry& e : bench(session_.shack()))
    list.push_back(
        {qt_text(e.item.part.name), tr("bench"), {}, [this, id = e.id] { show_bench(id); }});
  add(tr("Dark theme on or off"), "Ctrl T", [this] { set_dark(!is_dark()); });
  add(tr("Add a device"), {}, [this] { ask_for_device(); });
  add(tr("Open a shack"), "Ctrl O", [this] { ask_for_shack(); });
  add(tr("New shack"), {}, [this] { ask_for_new_shack(); });
  add(tr("Import an evaluation"), {}, [this] { ask_for_import(); });
  for (const auto& [kind, name] : test_signals())
    add(tr("Write a test signal: %1").arg(name), {}, [this, k = kind] { ask_for_signal(k); });
  add(tr("Undo %1").arg(session_.undo_stack().undoText()), "Ctrl Z", [this] { undo(); });
  add(tr("Redo %1").arg(session_.undo_stack().redoText()), "Ctrl Shift Z", [this] { redo(); });
  add(tr("Clean up recordings that nothing uses"), {}, [this] { ask_to_clean_up(); });
  if (in_evaluation) {
    add(tr("Rename this evaluation"), {}, [this] { ask_to_rename_evaluation(); });
    add(tr("Remove this evaluation"), {},
        [this] { ShackEdits(session_).remove_evaluation(session_.evaluation_id()); });
    add(tr("Add a recording, or measure"), "Ctrl Return", [this] { method_->primary_by_key(); });
    add(tr("Sign off this test"), {}, [this] { method_->ask_signature(); });
    for (const Characteristic& c : characteristics()) {
      if (c.has_method)
        add(tr("Add a test: %1").arg(qt_text(std::string(c.test))), {},
            [this, &c] { ask_for_test(c); });
    }
    add(tr("Open the hook-up of this test"), "Ctrl H",
        [this] { show_hookup(0, session_.test_id()); });
    add(tr("Transmit timer: start or stop"), "F9", [this] { header_->key_clock()->click(); });
    add(tr("Describe the path of this test"), {}, [this] { method_->ask_path(); });
    add(tr("Describe the conditions of this test"), {}, [this] { method_->ask_conditions(); });
    add(tr("Uncertainty budget"), "Ctrl U", [this] { method_->show_budget(); });
    add(tr("Copy the figure"), "Ctrl Shift C", [this] { method_->copy_figure(); });
    add(tr("Copy the table"), {}, [this] { method_->copy_table(); });
    for (const char* ending : {"pdf", "html", "csv", "json", "zip"}) {
      add(tr("Export as %1").arg(QString(ending).toUpper()),
          QString(ending) == "pdf" ? "Ctrl E" : "", [this, ending] { ask_for_export(ending); });
    }
  }
  add(tr("Quit"), "Ctrl Q", [this] { close(); });
  return list;
}

void MainWindow::ask_for_shack() {
  const QString folder = QFileDialog::getExistingDirectory(this, tr("Open a shack"));
  if (!folder.isEmpty()) open_shack(folder);
}

void MainWindow::ask_for_new_shack() {
  const QString folder =
      QFileDialog::getExistingDirectory(this, tr("An empty folder for the new shack"));
  if (folder.isEmpty()) return;
  const auto place =
      ask(this, tr("New shack"),
          tr("The whole collection of devices, evaluations and recordings lives in this folder."),
          tr("Name of the place"), tr("My bench"), tr("Create"), not_empty);
  if (place) open_or_create_shack(folder, *place);
}

namespace {

/// "a.wav, b.wav and 12 more"
QString shortened(const std::vector<std::string>& names) {
  constexpr std::size_t kShown = 8;
  QStringList shown;
  for (const std::string& name : names) {
    if (shown.size() == kShown) break;
    shown << qt_text(name);
  }
  const QString list = shown.join(", ");
  return names.size() > kShown ? QObject::tr("%1 and %2 more").arg(list).arg(names.size() - kShown)
                               : list;
}

/// Name, kind, serial and note; nullopt if cancelled.
std::optional<Device> ask_device(QWidget* parent, const QString& heading, const QString& button,
                                 const Device& now) {
  AskDialog dialog(
      heading, QObject::tr("What is evaluated: a transceiver, an amplifier, a synthesizer."),
      {{QObject::tr("Name"), qt_text(now.name)},
       {QObject::tr("Kind, such as HF transceiver"), qt_text(now.kind)},
       {QObject::tr("Serial, such as no. 0412"), qt_text(now.serial)},
       {QObject::tr("Note"), qt_text(now.note)}},
      button, [](const QStringList& texts) { return not_empty(texts.front()); }, parent);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  const QStringList texts = dialog.texts();
  Device device = now;
  device.name = texts[0].toStdString();
  device.kind = texts[1].toStdString();
  device.serial = texts[2].toStdString();
  device.note = texts[3].toStdString();
  return device;
}

}  // namespace

void MainWindow::ask_for_device() {
  if (!session_.is_open()) return;
  const auto device = ask_device(this, tr("Add a device"), tr("Add it"), {});
  if (!device) return;
  const Id evaluation = ShackEdits(session_).add_device(*device, tr("Evaluation"));
  if (evaluation != 0) show_evaluation(evaluation);
}

void MainWindow::ask_to_edit_device(Id id) {
  const Device now = device(session_.shack(), id);
  const auto device = ask_device(this, tr("Edit %1").arg(qt_text(now.name)), tr("Save"), now);
  if (device) ShackEdits(session_).set_device(id, *device);
}

/// Nothing is lost: one press of undo brings it back.
void MainWindow::ask_to_remove_device(Id id) {
  const QString name = qt_text(device(session_.shack(), id).name);
  ShackEdits(session_).remove_device(id);
  messages_->tell(tr("Removed %1 with its evaluations; Ctrl Z brings it back").arg(name));
}

void MainWindow::ask_to_rename_evaluation() {
  const Id id = session_.evaluation_id();
  if (id == 0) return;
  const auto title = ask(this, tr("Rename this evaluation"), {}, tr("Title"),
                         qt_text(evaluation(session_.shack(), id).title), tr("Save"), not_empty);
  if (!title) return;
  ShackEdits(session_).rename_evaluation(id, *title);
  show_evaluation(id, session_.test_id());
}

void MainWindow::ask_to_clean_up() {
  if (!session_.is_open()) return;
  if (session_.shack().is_read_only()) {
    messages_->complain(qt_text(session_.shack().why_read_only()), {});
    return;
  }
  if (queue_.is_busy()) {
    messages_->complain(tr("Recordings are being added."), tr("Wait for them, or stop it first"));
    return;
  }
  try {
    const UnusedCaptures unused = find_unused_captures(session_.shack());
    if (unused.files.empty()) {
      messages_->tell(tr("Nothing to clean up: every recording in the shack is in use"));
      return;
    }
    const QString size = QLocale::c().formattedDataSize(static_cast<qint64>(unused.bytes));
    if (!confirm(this, tr("Clean up"),
                 tr("No longer used, because they or what they belonged to were removed: "
                    "%1. Deleting them frees %2. That cannot be undone, nor can what was done "
                    "before.")
                     .arg(shortened(unused.names), size),
                 tr("Delete %1").arg(unused.hashes.size())))
      return;
    remove_unused_captures(session_.shack(), unused);
    session_.undo_stack().clear();
    messages_->tell(tr("Deleted %1 recordings, %2 freed").arg(unused.hashes.size()).arg(size));
  } catch (const InputError& error) {
    messages_->complain(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void MainWindow::undo() {
  if (is_in_hookup() && hookup_->undo_draft()) return;
  QUndoStack& stack = session_.undo_stack();
  if (!stack.canUndo()) return;
  const QString what = stack.undoText();
  stack.undo();
  messages_->tell(tr("Undone: %1").arg(what));
}

void MainWindow::redo() {
  if (is_in_hookup() && hookup_->redo_draft()) return;
  QUndoStack& stack = session_.undo_stack();
  if (!stack.canRedo()) return;
  const QString what = stack.redoText();
  stack.redo();
  messages_->tell(tr("Redone: %1").arg(what));
}

void MainWindow::ask_for_evaluation(Id id) {
  const Device d = device(session_.shack(), id);
  const auto title = ask(this, tr("Start an evaluation of %1").arg(qt_text(d.name)),
                         tr("One job on one device: its plan begins with a two-tone test."),
                         tr("Title"), tr("Evaluation"), tr("Start"), not_empty);
  if (!title) return;
  if (const Id evaluation = ShackEdits(session_).add_evaluation(id, *title); evaluation != 0)
    show_evaluation(evaluation);
}

/// What can be added, where the button stands.
void MainWindow::choose_test_kind() {
  QMenu menu(this);
  for (const Characteristic& c : characteristics()) {
    if (c.has_method)
      menu.addAction(qt_text(std::string(c.test)), this, [this, &c] { ask_for_test(c); });
  }
  menu.exec(rail_->mapToGlobal(QPoint(8, rail_->height() - 44 - menu.sizeHint().height())));
}

void MainWindow::ask_for_test(const Characteristic& kind) {
  const QString name = qt_text(std::string(kind.test));
  const auto conditions =
      ask(this, tr("Add: %1").arg(name), qt_text(std::string(kind.question)),
          tr("Conditions: band, supply, settings"), tr("14.200 MHz"), tr("Add it"), not_empty);
  if (conditions)
    TestEdits(session_).add_test(std::string(kind.id), tr("%1, %2").arg(name, *conditions),
                                 *conditions);
}

void MainWindow::ask_for_export(const QString& ending) {
  if (session_.evaluation_id() == 0 || !pages_is_evaluation()) {
    messages_->complain(tr("Nothing to export here"), tr("Open an evaluation first"));
    return;
  }
  const Evaluation e = evaluation(session_.shack(), session_.evaluation_id());
  const Device d = device(session_.shack(), e.device_id);
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation);
  QString path = QFileDialog::getSaveFileName(
      this, tr("Export"), folder + "/" + qt_text(d.name + ", " + e.title) + "." + ending,
      ending.toUpper() + " (*." + ending + ")");
  if (path.isEmpty()) return;
  if (!path.endsWith("." + ending, Qt::CaseInsensitive)) path += "." + ending;
  export_to(path);
}

void MainWindow::ask_for_import() {
  if (!session_.is_open()) return;
  const QString path =
      QFileDialog::getOpenFileName(this, tr("Import an evaluation"), {}, tr("Evaluations (*.zip)"));
  if (!path.isEmpty()) import_from(path);
}

void MainWindow::ask_for_signal(StimulusKind kind) {
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::MusicLocation);
  QString path = QFileDialog::getSaveFileName(this, tr("Write a test signal"),
                                              folder + "/" + qt_text(stimulus_id(kind)) + ".wav",
                                              tr("WAV (*.wav)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(".wav", Qt::CaseInsensitive)) path += ".wav";
  write_signal(kind, path);
}

void MainWindow::show_about() {
  tell(this, tr("Even Heron %1").arg(QApplication::applicationVersion()),
       tr("A bench companion for radio amateurs.\n\nFree software under the GPL, version 3 or "
          "later. "
          "Fonts: Inter and JetBrains Mono, SIL Open Font License 1.1. Plots by QCustomPlot, "
          "spectra by FFTW."),
       tr("Close"));
}

}  // namespace heron
