// Logs and events for the sheet of a method; the rest of it is in method_sheet.cpp.
#include <QFileDialog>

#include "app/live/log_keeper.h"
#include "app/live/needle_tone.h"
#include "app/session/log_edits.h"
#include "app/session/log_import.h"
#include "app/sheet/method_sheet.h"
#include "app/sheet/reminders.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/needle_view.h"
#include "core/quantity/parse_quantity.h"
#include "store/clock.h"

namespace heron {

void MethodSheet::connect_log() {
  logging_->hide();
  connect(logging_, &TakingCard::stop_asked, log_, &LogKeeper::stop);
  connect(log_, &LogKeeper::progressed, logging_, &TakingCard::set_progress);
  connect(log_, &LogKeeper::failed, this, &Sheet::failed);
  connect(log_, &LogKeeper::missed, this, [this](const QString& why) {
    emit told(tr("No reading: %1").arg(why));
    // Nothing stays as it was: a needle that stands still would be believed.
    if (!has_needle()) return;
    Needle none = needle_->needle();
    none.state = Needle::State::no_reading;
    none.order.clear();
    none.order_caption = why.toStdString();
    needle_->set_needle(none);
  });
  connect(needle_, &NeedleView::hand_turned, this, &MethodSheet::turn_hand);
  connect(needle_, &NeedleView::tone_asked, this, &MethodSheet::turn_tone);
  connect(needle_, &NeedleView::needle_changed, this, [this] { tone_->follow(needle_->needle()); });
  connect(needle_, &NeedleView::plain_asked, this,
          [this] { show_plain_needle(!needle_->is_plain()); });
  connect(reminders_, &Reminders::due, this, &Sheet::reminded);
  connect(log_files_, &LogImport::began, taking_, &TakingCard::begin);
  connect(log_files_, &LogImport::began, taking_, &QWidget::show);
  connect(log_files_, &LogImport::progressed, taking_, &TakingCard::set_progress);
  connect(taking_, &TakingCard::stop_asked, log_files_, &LogImport::cancel);
  connect(log_files_, &LogImport::idle, this, [this] { taking_->setVisible(is_busy()); });
  connect(log_files_, &LogImport::failed, this, &Sheet::failed);
  connect(log_files_, &LogImport::told, this, &Sheet::told);
  connect(&session_, &Session::shack_opened, reminders_, &Reminders::forget_all);
  connect(log_, &LogKeeper::ended, this, [this] {
    logging_->hide();
    refresh_head();
    emit told(tr("The log has ended"));
  });
}

/// What is turned can be heard too.
void MethodSheet::turn_tone() {
  if (tone_->is_on()) {
    tone_->stop();
    emit told(tr("The needle is silent"));
    return;
  }
  if (!tone_->start()) {
    emit failed(tr("This computer has no sound output."), tr("Plug one in, or read the needle"));
    return;
  }
  tone_->follow(needle_->needle());
  emit told(tr("The tone follows the needle: 660 Hz at rest, higher above it; T again stops it"));
}

/// With nothing beside it.
void MethodSheet::show_plain_needle(bool plain) {
  needle_->set_plain(plain);
  right_->setVisible(!plain);
  if (plain)
    stack_->hide();
  else
    show_below(-1);
}

/// Space on the needle, or a foot switch that presses it.
void MethodSheet::turn_hand() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || !t->result.needle) return;
  if (!log_->is_running() || log_->test_id() != t->test.id) {
    emit failed(tr("Nothing is read while you turn."), tr("Start the log first"));
    return;
  }
  const bool is_tool = t->result.needle->state == Needle::State::tool_on;
  note_event(is_tool ? kHandsOff : kToolOn);
}

bool MethodSheet::is_reading_logs() const {
  return log_files_->is_busy();
}

bool MethodSheet::reads_logs() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->read_log != nullptr;
}

bool MethodSheet::can_log() const {
  const GeneralTest* t = session_.general();
  return t != nullptr && t->method->log != nullptr && !bench_->is_in_use() &&
         log_->can_log(t->method->log(t->evidence));
}

void MethodSheet::start_log() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->log == nullptr || log_->is_running()) return;
  const LogRecipe recipe = t->method->log(t->evidence);
  if (const auto no = session_.refusal(t->test.id)) {
    emit failed(no->what, no->what_to_do);
    return;
  }
  if (!recipe.refusal.empty()) {
    emit failed(qt_text(recipe.refusal), qt_text(recipe.what_to_do));
    return;
  }
  if (!can_log()) {
    emit failed(tr("No instrument answers that shows what is logged."),
                recipe.tone_hz ? tr("Plug in a sound input, or add a recording")
                : recipe.stops.empty()
                    ? tr("Connect a counter on the bench, or drop a CSV file here")
                    : tr("Connect a counter and a step attenuator, or type the states"));
    return;
  }
  // What was begun before goes on in the same place.
  Id into = 0;
  for (const Step& s : t->steps)
    if (s.label == recipe.step) into = s.id;
  logging_->begin(!recipe.stops.empty()
                      ? tr("%1 attenuations").arg(recipe.stops.size())
                      : tr("log every %1").arg(qt_text(duration_text(recipe.every_s))),
                  0);
  logging_->show();
  // What it shows is needed now, not what can be typed.
  show_below(0);
  log_->start(t->test.id, into, recipe);
  refresh_head();
}

QString MethodSheet::in_use_words() const {
  return log_->is_running() ? tr("Logging") : Sheet::in_use_words();
}

QString MethodSheet::in_use_consequence() const {
  return log_->is_running() ? tr("Each reading is kept at once; stop it at any time")
                            : Sheet::in_use_consequence();
}

void MethodSheet::ask_log_file() {
  const QStringList files = QFileDialog::getOpenFileNames(
      this, tr("Add a log"), {},
      tr("Logs and recordings (*.csv *.txt *.tsv *.wav *.WAV *.w64 *.rf64 *.sigmf-meta);;All files "
         "(*)"));
  if (!files.isEmpty()) add_recordings(files);
}

void MethodSheet::read_log(const QString& path) {
  session_.settle();
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->read_log == nullptr) return;
  if (const auto no = session_.refusal(t->test.id)) {
    emit failed(no->what, no->what_to_do);
    return;
  }
  Evidence against;
  against.settings = t->evidence.settings;
  against.companion = t->evidence.companion;
  log_files_->add(path, t->test.id, t->method->read_log, std::move(against));
}

void MethodSheet::add_log_actions(QMenu* menu, const GeneralTest& t) {
  if (t.method->log != nullptr)
    menu->addAction(
            t.method->log(t.evidence).stops.empty() ? tr("Start the log") : tr("Start the run"),
            this, &MethodSheet::start_log)
        ->setEnabled(!log_->is_running());
  if (t.result.needle) {
    QAction* sound =
        menu->addAction(tr("A tone follows the needle\tT"), this, &MethodSheet::turn_tone);
    sound->setCheckable(true);
    sound->setChecked(tone_->is_on());
  }
  if (t.method->read_log == nullptr) return;
  menu->addAction(tr("Add a log or a recording\u2026"), this, &MethodSheet::ask_log_file);
  QMenu* later = menu->addMenu(tr("Remind me to read again"));
  for (const int minutes : {5, 10, 30, 60})
    later->addAction(tr("in %1 min").arg(minutes), this, [this, minutes] { remind_in(minutes); });
  if (!t.method->fields.empty())
    menu->addAction(tr("Type readings"), this, &MethodSheet::show_grid);
  QMenu* events = menu->addMenu(tr("Note an event"));
  for (const QString& words : {tr("lid on"), tr("lid off"), tr("turned over"), tr("heater on"),
                               tr("heater off"), tr("window opened"), tr("fan on"), tr("fan off")})
    events->addAction(words, this, [this, words] { note_event(words); });
  events->addSeparator();
  events->addAction(tr("Other words\u2026"), this, &MethodSheet::ask_event);
  if (t.evidence.events.empty()) return;
  QMenu* noted = menu->addMenu(tr("Remove an event"));
  for (const Event& e : t.evidence.events)
    noted->addAction(tr("%1, %2").arg(qt_text(e.text), qt_text(e.at)), this,
                     [this, e, id = t.test.id] { LogEdits(session_).remove_event(id, e); });
}

void MethodSheet::note_event(const QString& words) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const bool is_of_log = log_->is_running() && log_->test_id() == t->test.id;
  LogEdits(session_).add_event(t->test.id, words, is_of_log ? log_->now() : utc_now());
  emit told(tr("Noted: %1").arg(words));
}

void MethodSheet::remind_in(int minutes) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  reminders_->remind_in(minutes, tr("Read again: %1").arg(qt_text(t->test.title)),
                        t->test.evaluation_id, t->test.id);
  emit told(tr("You will be told in %1 min, as long as the program runs").arg(minutes));
}

void MethodSheet::ask_event() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const std::string now = log_->is_running() ? log_->now() : utc_now();
  AskDialog dialog(
      tr("An event"), tr("What was done or happened, and when (UTC)."),
      {{tr("Event"), {}}, {tr("When"), qt_text(now)}}, tr("Note it"),
      [](const QStringList& texts) -> QString {
        if (texts[0].trimmed().isEmpty()) return tr("Type what happened.");
        return seconds_of(texts[1].trimmed().toStdString()) == 0
                   ? tr("Type the time like 2026-03-02T19:04:00Z.")
                   : QString();
      },
      this);
  if (dialog.exec() != QDialog::Accepted) return;
  LogEdits(session_).add_event(t->test.id, dialog.texts()[0].trimmed(),
                               dialog.texts()[1].trimmed().toStdString());
}

}  // namespace heron
