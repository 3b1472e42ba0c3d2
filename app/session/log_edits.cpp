#include "app/session/log_edits.h"

#include "app/theme/qt_text.h"
#include "store/event.h"
#include "store/reading.h"
#include "store/series.h"
#include "store/step.h"

namespace heron {
namespace {

/// `step` 0: the one they are on goes along.
void set_logs_removed(Shack& shack, const LogEdits::Kept& kept, Id step, bool removed) {
  if (step == 0) set_step_removed(shack, kept.step, removed);
  for (const Id id : kept.series) set_series_removed(shack, id, removed);
}

}  // namespace

std::optional<LogEdits::Kept> LogEdits::add_logs(Id test, Id step, const QString& label,
                                                 const std::vector<Series>& logs) {
  Session& s = session_;
  auto kept = std::make_shared<Kept>();
  s.change_test(
      test, s.tr("log %1").arg(label),
      [&s, kept, test, step, label, logs] {
        if (!kept->series.empty()) {
          set_logs_removed(s.shack(), *kept, step, false);
          return;
        }
        Kept made;
        made.step = step != 0 ? step : add_step(s.shack(), test, label.toStdString());
        for (const Series& log : logs) made.series.push_back(add_series(s.shack(), made.step, log));
        *kept = std::move(made);  // only when all are written
      },
      [&s, kept, step] { set_logs_removed(s.shack(), *kept, step, true); });
  if (kept->series.empty()) return std::nullopt;
  return *kept;
}

bool LogEdits::show_logs(Id test, const QString& label, const Kept& kept) {
  Session& s = session_;
  const int before = s.undo_stack().count();
  s.change_test(
      test, s.tr("log %1").arg(label), [&s, kept] { set_logs_removed(s.shack(), kept, 0, false); },
      [&s, kept] { set_logs_removed(s.shack(), kept, 0, true); });
  return s.undo_stack().count() > before;
}

void LogEdits::add_stop(Id test, const QString& label, const std::vector<Reading>& readings,
                        const Condition& condition) {
  Session& s = session_;
  struct KeptStop {
    Id step = 0;
    bool is_new = false;
    std::vector<Id> readings;
    std::vector<Id> before;  ///< what instruments had read there
  };
  auto kept = std::make_shared<KeptStop>();
  s.change_test(
      test, s.tr("readings of %1").arg(label),
      [&s, kept, test, label, readings, condition] {
        if (!kept->readings.empty()) {
          if (kept->is_new) set_step_removed(s.shack(), kept->step, false);
          for (const Id id : kept->readings) set_reading_removed(s.shack(), id, false);
          for (const Id id : kept->before) set_reading_removed(s.shack(), id, true);
          return;
        }
        KeptStop made;
        for (const Step& one : steps(s.shack(), test)) {
          if (one.label != label.toStdString()) continue;
          made.step = one.id;
          made.before.clear();
          for (const Reading& r : one.readings)
            if (r.source == ReadingSource::live) made.before.push_back(r.id);
        }
        for (const Id id : made.before) set_reading_removed(s.shack(), id, true);
        made.is_new = made.step == 0;
        if (made.is_new) made.step = add_step(s.shack(), test, label.toStdString());
        set_condition(s.shack(), made.step, condition);
        for (const Reading& r : readings)
          made.readings.push_back(add_reading(s.shack(), made.step, r));
        *kept = std::move(made);  // only when all are written
      },
      [&s, kept] {
        for (const Id id : kept->readings) set_reading_removed(s.shack(), id, true);
        for (const Id id : kept->before) set_reading_removed(s.shack(), id, false);
        if (kept->is_new) set_step_removed(s.shack(), kept->step, true);
      });
}

void LogEdits::add_event(Id test, const QString& words, const std::string& at) {
  Session& s = session_;
  auto id = std::make_shared<Id>(0);
  s.change_test(
      test, s.tr("event %1").arg(words),
      [&s, id, test, words, at] {
        if (*id == 0)
          *id = heron::add_event(s.shack(), test, {0, at, words.toStdString()});
        else
          set_event_removed(s.shack(), *id, false);
      },
      [&s, id] { set_event_removed(s.shack(), *id, true); });
}

void LogEdits::remove_event(Id test, const Event& event) {
  Session& s = session_;
  s.change_test(
      test, s.tr("removal of event %1").arg(qt_text(event.text)),
      [&s, id = event.id] { set_event_removed(s.shack(), id, true); },
      [&s, id = event.id] { set_event_removed(s.shack(), id, false); });
}

}  // namespace heron
