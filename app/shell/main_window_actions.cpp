// What the window's menus and the command box offer; the composition is in main_window.cpp.
#include <QApplication>
#include <QStackedWidget>

#include "app/session/shack_edits.h"
#include "app/shell/key_help.h"
#include "app/shell/main_window.h"
#include "app/shell/shack_prompts.h"
#include "app/shell/window_files.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/list_card.h"
#include "core/method/method_table.h"

namespace heron {
namespace {

std::vector<std::pair<StimulusKind, QString>> test_signals() {
  return {{StimulusKind::two_tone, MainWindow::tr("two tones")},
          {StimulusKind::tone, MainWindow::tr("one tone")},
          {StimulusKind::notched_noise, MainWindow::tr("noise with a notch")},
          {StimulusKind::speech_noise, MainWindow::tr("speech-shaped noise")}};
}

/// Its entries and those of its menus within, by their whole way.
void add_entries(const QMenu& menu, const QString& way,
                 std::vector<std::pair<QString, QAction*>>& entries) {
  for (QAction* action : menu.actions()) {
    if (action->isSeparator() || !action->isEnabled()) continue;
    const QString name = way + ": " + action->text().section('\t', 0, 0);
    if (action->menu() != nullptr)
      add_entries(*action->menu(), name, entries);
    else
      entries.emplace_back(name, action);
  }
}

std::vector<std::pair<QString, QAction*>> entries_of(Chip& chip) {
  emit chip.menu()->aboutToShow();  // some are filled then
  std::vector<std::pair<QString, QAction*>> entries;
  add_entries(*chip.menu(), chip.accessibleName().section(',', 0, 0), entries);
  return entries;
}

}  // namespace

void MainWindow::fill_menus() {
  QMenu* menu = header_->menu();
  const auto add = [&](const QString& name, const char* keys, auto action) {
    menu->addAction(name + (*keys ? "\t" + QString(keys) : QString()), this, action);
  };
  add(tr("Open a shack\u2026"), "Ctrl+O", [this] { files_->ask_for_shack(); });
  add(tr("New shack\u2026"), "", [this] { files_->ask_for_new_shack(); });
  add(tr("Open the demo"), "", [this] { files_->open_demo(); });
  add(tr("Import an evaluation\u2026"), "", [this] { files_->ask_for_import(); });
  QMenu* signals_menu = menu->addMenu(tr("Write a test signal"));
  for (const auto& [kind, name] : test_signals())
    signals_menu->addAction(name + QString::fromUtf8("\u2026"), this,
                            [this, k = kind] { files_->ask_for_signal(k); });
  menu->addSeparator();
  add(tr("Undo"), "Ctrl+Z", [this] { undo(); });
  add(tr("Redo"), "Ctrl+Shift+Z", [this] { redo(); });
  add(tr("Clean up recordings\u2026"), "", [this] { prompts_->ask_to_clean_up(); });
  menu->addSeparator();
  add(tr("Dark theme on or off"), "Ctrl+T", [this] { set_dark(!is_dark()); });
  add(tr("The bench"), "Ctrl+B", [this] { show_bench(); });
  add(tr("Level converter"), "Ctrl+L", [this] { open_level_desk(); });
  add(tr("Find or run\u2026"), "Ctrl+K", [this] { commands_->open(commands()); });
  menu->addSeparator();
  add(tr("Keys of this view"), "F1", [this] { show_keys(); });
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
    if (!d.retired_at.empty()) continue;
    menu->addAction(tr("%1: device card").arg(qt_text(d.name)), this,
                    [this, id = d.id] { show_device(id); });
    for (const Evaluation& e : evaluations(session_.shack(), d.id)) {
      menu->addAction(qt_text(d.name + ": " + e.title), this,
                      [this, id = e.id] { show_evaluation(id); });
    }
  }
}

std::vector<Command> MainWindow::commands() {
  std::vector<Command> list;
  if (!session_.is_open()) {
    list.push_back({tr("Open a shack"), tr("do"), "Ctrl O", [this] { files_->ask_for_shack(); }});
    list.push_back({tr("New shack"), tr("do"), {}, [this] { files_->ask_for_new_shack(); }});
    list.push_back(
        {tr("Dark theme on or off"), tr("do"), "Ctrl T", [this] { set_dark(!is_dark()); }});
    list.push_back({tr("Keys of this view"), tr("do"), "F1", [this] { show_keys(); }});
    list.push_back({tr("Make the demo"), tr("do"), {}, [this] { files_->open_demo(); }});
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
           prompts_->ask_for_evaluation(id);
         }});
    list.push_back({tr("Device card of %1: edit, rename, specification").arg(qt_text(d.name)),
                    tr("device"),
                    {},
                    [this, id = d.id] { show_device(id); }});
    list.push_back({tr("Add a figure of %1 from elsewhere").arg(qt_text(d.name)),
                    tr("do"),
                    {},
                    [this, id = d.id] { prompts_->ask_for_outside_figure(id); }});
    list.push_back({tr("Write down what was done to %1").arg(qt_text(d.name)),
                    tr("do"),
                    {},
                    [this, id = d.id] { prompts_->ask_for_work(id); }});
    list.push_back({tr("Duplicate %1").arg(qt_text(d.name)), tr("do"), {}, [this, id = d.id] {
                      prompts_->ask_to_duplicate_device(id);
                    }});
    list.push_back({tr("Remove %1").arg(qt_text(d.name)), tr("do"), {}, [this, id = d.id] {
                      prompts_->ask_to_remove_device(id);
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
  add(tr("Add a device"), {}, [this] { show_device(0); });
  add(tr("Open a shack"), "Ctrl O", [this] { files_->ask_for_shack(); });
  add(tr("New shack"), {}, [this] { files_->ask_for_new_shack(); });
  add(tr("Import an evaluation"), {}, [this] { files_->ask_for_import(); });
  for (const auto& [kind, name] : test_signals())
    add(tr("Write a test signal: %1").arg(name), {},
        [this, k = kind] { files_->ask_for_signal(k); });
  add(tr("Undo %1").arg(session_.undo_stack().undoText()), "Ctrl Z", [this] { undo(); });
  add(tr("Redo %1").arg(session_.undo_stack().redoText()), "Ctrl Shift Z", [this] { redo(); });
  add(tr("Clean up recordings that nothing uses"), {}, [this] { prompts_->ask_to_clean_up(); });
  if (in_evaluation) {
    add(tr("Rename this evaluation"), {}, [this] { prompts_->ask_to_rename_evaluation(); });
    add(tr("Goal of this evaluation"), {}, [this] { prompts_->ask_for_goal(); });
    if (evaluation(session_.shack(), session_.evaluation_id()).end)
      add(tr("Open this evaluation again"), {},
          [this] { ShackEdits(session_).end_evaluation(session_.evaluation_id(), std::nullopt); });
    else
      add(tr("End this evaluation, whole or in part"), {},
          [this] { prompts_->ask_to_end_evaluation(); });
    add(tr("Remove this evaluation"), {},
        [this] { ShackEdits(session_).remove_evaluation(session_.evaluation_id()); });
    add(tr("Add a recording, or measure"), "Ctrl Return", [this] { method_->primary_by_key(); });
    add(tr("Sign off this test"), {}, [this] { method_->ask_signature(); });
    add(tr("Accept this figure as good enough"), {}, [this] { method_->ask_acceptance(); });
    for (const Characteristic& c : characteristics()) {
      if (c.has_method)
        add(tr("Add a test: %1").arg(qt_text(std::string(c.test))), {},
            [this, &c] { prompts_->ask_for_test(c); });
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
  add(tr("Keys of this view"), "F1", [this] { show_keys(); });
  add(tr("About Even Heron"), {}, [this] { show_about(); });
  add(tr("Quit"), "Ctrl Q", [this] { close(); });
  if (in_evaluation && !is_in_hookup()) add_menu_commands(*method_, list);
  if (is_in_hookup()) add_menu_commands(*hookup_, list);
  for (const QWidget* page :
       {static_cast<const QWidget*>(device_view_), static_cast<const QWidget*>(bench_)})
    if (pages_->currentWidget() == page) add_menu_commands(*page, list);
  return list;
}

/// Everything that a menu of the shown sheet has. Menus are filled anew all the time: what is run
/// is looked up again.
void MainWindow::add_menu_commands(const QWidget& page, std::vector<Command>& list) {
  for (Chip* chip : page.findChildren<Chip*>()) {
    if (!chip->isVisible()) continue;
    for (const auto& entry : entries_of(*chip))
      list.push_back({entry.first, tr("menu"), {}, [chip, name = entry.first] {
                        for (const auto& now : entries_of(*chip))
                          if (now.first == name) {
                            now.second->trigger();
                            return;
                          }
                      }});
  }
}

void MainWindow::show_keys() {
  const KeyPlace place = !session_.is_open()                       ? KeyPlace::start
                         : is_in_hookup()                          ? KeyPlace::hookup
                         : pages_is_evaluation()                   ? KeyPlace::sheet
                         : pages_->currentWidget() == bench_       ? KeyPlace::bench
                         : pages_->currentWidget() == device_view_ ? KeyPlace::device
                                                                   : KeyPlace::shack;
  QStringList rows;
  for (const auto& [key, what] : keys_of(place))
    rows << key + QString::fromUtf8("  \u2013  ") + what;
  auto* card = new ListCard(tr("Keys of this view"), tr("Everything can be done without a mouse."),
                            rows, this);
  card->open_at(QPoint((width() - card->width()) / 2, 90));
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

void MainWindow::show_about() {
  tell(this, tr("Even Heron %1").arg(QApplication::applicationVersion()),
       tr("A bench companion for radio amateurs.\n\nFree software under the GPL, version 3 or "
          "later. "
          "Fonts: Inter and JetBrains Mono, SIL Open Font License 1.1. Plots by QCustomPlot, "
          "spectra by FFTW."),
       tr("Close"));
}

void MainWindow::ask_for_export(const QString& ending) {
  method_->flush();
  if (pages_is_evaluation())
    files_->ask_for_export(ending);
  else
    messages_->complain(tr("Nothing to export here"), tr("Open an evaluation first"));
}

}  // namespace heron
