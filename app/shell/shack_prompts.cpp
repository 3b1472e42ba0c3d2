#include "app/shell/shack_prompts.h"

#include <QDate>
#include <QLocale>
#include <QMenu>

#include "app/session/shack_edits.h"
#include "app/session/test_edits.h"
#include "app/shell/plan_dialog.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "core/method/specification.h"
#include "store/cleanup.h"
#include "store/clock.h"
#include "store/story.h"

namespace heron {

ShackPrompts::ShackPrompts(Session& session, ImportQueue& queue, MessageBar& messages,
                           QWidget& window)
    : QObject(&window), session_(session), queue_(queue), messages_(messages), window_(window) {}

namespace {

/// "a.wav, b.wav and 12 more"
QString shortened(const std::vector<std::string>& names) {
  constexpr std::size_t kMostShown = 8;
  QStringList shown;
  for (const std::string& name : names) {
    if (shown.size() == kMostShown) break;
    shown << qt_text(name);
  }
  const QString list = shown.join(", ");
  return names.size() > kMostShown
             ? ShackPrompts::tr("%1 and %2 more").arg(list).arg(names.size() - kMostShown)
             : list;
}

/// Name, kind, serial and note; nullopt if cancelled.
std::optional<Device> ask_device(QWidget* parent, const QString& heading, const QString& button,
                                 const Device& now) {
  AskDialog dialog(
      heading, ShackPrompts::tr("What is evaluated: a transceiver, an amplifier, a synthesizer."),
      {{ShackPrompts::tr("Name"), qt_text(now.name)},
       {ShackPrompts::tr("Kind, such as HF transceiver"), qt_text(now.kind)},
       {ShackPrompts::tr("Serial, such as no. 0412"), qt_text(now.serial)},
       {ShackPrompts::tr("Note"), qt_text(now.note)}},
      button, [](const QStringList& texts) { return not_empty_name(texts.front()); }, parent);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  const QStringList texts = dialog.texts();
  Device device = now;
  device.name = texts[0].toStdString();
  device.kind = texts[1].toStdString();
  device.serial = texts[2].toStdString();
  device.note = texts[3].toStdString();
  return device;
}

/// "2026-11-30" as a moment; InputError if it is no day, or one to come.
std::string day_read(const QString& typed) {
  const QDate day = QDate::fromString(typed.trimmed(), Qt::ISODate);
  const QDate today = QDate::currentDate();
  if (!day.isValid() || day > today)
    throw InputError("day", typed.toStdString(), "it is no day that has been",
                     "Type it like " + today.toString(Qt::ISODate).toStdString());
  // Today is now: it follows what was measured before on the same day.
  return day == today ? utc_now() : day.toString(Qt::ISODate).toStdString() + "T12:00:00Z";
}

QString today_words() {
  return QDate::currentDate().toString(Qt::ISODate);
}

}  // namespace

void ShackPrompts::ask_to_duplicate_device(Id id) {
  Device now = device(session_.shack(), id);
  const QString heading = tr("Another %1").arg(qt_text(now.name));
  now.serial.clear();
  const auto device = ask_device(&window_, heading, tr("Add it"), now);
  if (!device) return;
  if (ShackEdits(session_).add_device(*device) != 0)
    messages_.tell(tr("Added %1 with the same specification").arg(qt_text(device->name)));
}

void ShackPrompts::ask_for_work(Id id) {
  if (id == 0) return;
  const QString name = qt_text(device(session_.shack(), id).name);
  AskDialog dialog(
      tr("What was done to %1").arg(name),
      tr("It stands in its history and in the report. What was measured before and after says what "
         "it changed."),
      {{tr("What, such as driver bias set"), {}},
       {tr("As it was, such as 180 mA"), {}},
       {tr("As it is now, such as 320 mA"), {}},
       {tr("Part, such as R12"), {}},
       {tr("By"), qt_text(session_.shack().operator_name())},
       {tr("Day"), today_words()}},
      tr("Write it down"),
      [](const QStringList& texts) {
        if (texts.front().trimmed().isEmpty()) return tr("Say what was done.");
        return complaint_about([](const QStringList& all) { day_read(all[5]); })(texts);
      },
      &window_);
  if (dialog.exec() != QDialog::Accepted) return;
  const QStringList texts = dialog.texts();
  const auto word = [&](int i) { return texts[i].trimmed().toStdString(); };
  if (ShackEdits(session_).add_work(id, Work{word(0), word(1), word(2), word(3), word(4)},
                                    day_read(texts[5])))
    messages_.tell(tr("Written down for %1").arg(name));
}

void ShackPrompts::ask_for_outside_figure(Id id) {
  if (id == 0) return;
  const QString name = qt_text(device(session_.shack(), id).name);
  const auto read = [id](const QStringList& texts) {
    const Characteristic* c = named_characteristic(texts[0].toStdString());
    if (c == nullptr)
      throw InputError("characteristic", texts[0].toStdString(),
                       "no test is about this, or more than one",
                       "Type the beginning of a name, such as Output or Sensitivity");
    OutsideFigure f;
    f.device_id = id;
    f.characteristic = c->id;
    f.figure = spec_figure(c->id, texts[1].toStdString(), texts[2].toStdString());
    f.figure.label = c->test;
    f.conditions = texts[3].trimmed().toStdString();
    f.source = texts[4].trimmed().toStdString();
    if (f.source.empty())
      throw InputError("source", "", "it has none", "Say who found it, and where it stands");
    f.at = day_read(texts[5]);
    return f;
  };
  AskDialog dialog(
      tr("A figure of %1 from elsewhere").arg(name),
      tr("A published test, its maker, another owner. It is never judged; it stands in the history "
         "beside the own figure, told in the same way."),
      {{tr("Characteristic, such as Two-tone products"), {}},
       {tr("Figure, such as \u221236 dB re one tone"), {}},
       {tr("\u00b1, if it is stated, in the same unit"), {}},
       {tr("Conditions, such as 14.2 MHz, 25 W"), {}},
       {tr("Source"), {}},
       {tr("Day"), today_words()}},
      tr("Add it"), complaint_about([&](const QStringList& texts) { read(texts); }), &window_);
  if (dialog.exec() != QDialog::Accepted) return;
  ShackEdits(session_).add_outside_figure(read(dialog.texts()));
}

/// Nothing is lost: one press of undo brings it back.
void ShackPrompts::ask_to_remove_device(Id id) {
  const QString name = qt_text(device(session_.shack(), id).name);
  ShackEdits(session_).remove_device(id);
  messages_.tell(tr("Removed %1 with its evaluations; Ctrl Z brings it back").arg(name));
}

void ShackPrompts::ask_to_rename_evaluation() {
  const Id id = session_.evaluation_id();
  if (id == 0) return;
  const auto title =
      ask(&window_, tr("Rename this evaluation"), {}, tr("Title"),
          qt_text(evaluation(session_.shack(), id).title), tr("Save"), not_empty_name);
  if (!title) return;
  ShackEdits(session_).rename_evaluation(id, *title);
  emit evaluation_asked(id, session_.test_id());
}

void ShackPrompts::ask_for_goal() {
  const Id id = session_.evaluation_id();
  if (id == 0) return;
  const auto goal = ask(
      &window_, tr("Goal of this evaluation"),
      tr("What it is to find out, in a sentence: it stands above the test plan and in the report."),
      tr("Goal"), qt_text(evaluation(session_.shack(), id).goal), tr("Save"));
  if (goal) ShackEdits(session_).set_goal(id, goal->trimmed());
}

void ShackPrompts::ask_to_end_evaluation() {
  const Id id = session_.evaluation_id();
  if (id == 0) return;
  AskDialog dialog(
      tr("End this evaluation"),
      tr("Without a reason everything is measured; with one it ends in part."),
      {{tr("Why not everything is measured"), {}, {}}, {tr("What comes next"), {}, {}}}, tr("End"),
      {}, &window_);
  if (dialog.exec() != QDialog::Accepted) return;
  const std::string reason = dialog.texts()[0].trimmed().toStdString();
  ShackEdits(session_).end_evaluation(id, EvaluationEnd{utc_now(), !reason.empty(), reason,
                                                        dialog.texts()[1].trimmed().toStdString()});
}

void ShackPrompts::ask_to_clean_up() {
  if (!session_.is_open()) return;
  if (session_.shack().is_read_only()) {
    messages_.complain(qt_text(session_.shack().why_read_only()), {});
    return;
  }
  if (queue_.is_busy()) {
    messages_.complain(tr("Recordings are being added."), tr("Wait for them, or stop it first"));
    return;
  }
  try {
    const UnusedCaptures unused = find_unused_captures(session_.shack());
    if (unused.files.empty()) {
      messages_.tell(tr("Nothing to clean up: every recording in the shack is in use"));
      return;
    }
    const QString size = QLocale::c().formattedDataSize(static_cast<qint64>(unused.bytes));
    if (!confirm(&window_, tr("Clean up"),
                 tr("No longer used, because they or what they belonged to were removed: "
                    "%1. Deleting them frees %2. That cannot be undone, nor can what was done "
                    "before.")
                     .arg(shortened(unused.names), size),
                 tr("Delete %1").arg(unused.hashes.size())))
      return;
    remove_unused_captures(session_.shack(), unused);
    session_.undo_stack().clear();
    messages_.tell(tr("Deleted %1 recordings, %2 freed").arg(unused.hashes.size()).arg(size));
  } catch (const InputError& error) {
    messages_.complain(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void ShackPrompts::ask_for_evaluation(Id id) {
  const Device d = device(session_.shack(), id);
  std::set<std::string> repeats;
  std::set<std::string> seen;
  for (const KnownFigure& known : known_figures(session_.shack(), id))
    if (seen.insert(known.characteristic).second && known.headline.is_provisional)
      repeats.insert(known.characteristic);
  PlanDialog dialog(qt_text(d.name), find_device_kind(d.kind), std::move(repeats), &window_);
  if (dialog.exec() != QDialog::Accepted) return;
  const Id made = ShackEdits(session_).add_evaluation(id, dialog.title(), dialog.tests());
  if (made != 0) emit evaluation_asked(made, 0);
}

/// What can be added, where the button stands.
void ShackPrompts::choose_test_kind(const QPoint& at) {
  QMenu menu(&window_);
  for (const Characteristic& c : characteristics()) {
    if (c.has_method)
      menu.addAction(qt_text(std::string(c.test)), this, [this, &c] { ask_for_test(c); });
  }
  menu.exec(at - QPoint(0, menu.sizeHint().height()));
}

void ShackPrompts::ask_for_test(const Characteristic& kind) {
  const QString name = qt_text(std::string(kind.test));
  const auto conditions =
      ask(&window_, tr("Add: %1").arg(name), qt_text(std::string(kind.question)),
          tr("Conditions: band, supply, settings"), tr("14.200 MHz"), tr("Add it"), not_empty_name);
  if (conditions)
    TestEdits(session_).add_test(std::string(kind.id), tr("%1, %2").arg(name, *conditions),
                                 *conditions);
}

void ShackPrompts::ask_to_rename_test(Id id) {
  if (const auto no = session_.refusal(id)) {
    messages_.complain(no->what, no->what_to_do);
    return;
  }
  const auto title = ask(&window_, tr("Rename this test"), {}, tr("Title"),
                         qt_text(test(session_.shack(), id).title), tr("Save"), not_empty_name);
  if (title) TestEdits(session_).rename_test(id, *title);
}

void ShackPrompts::ask_to_duplicate_test(Id id) {
  const auto title = ask(
      &window_, tr("The same for another band or setting"),
      tr("A new test with its hook-up, limit, settings and steps; nothing that was measured goes "
         "along."),
      tr("Title"), qt_text(test(session_.shack(), id).title) + tr(", again"), tr("Add it"),
      not_empty_name);
  if (title) TestEdits(session_).duplicate_test(id, *title);
}

}  // namespace heron
