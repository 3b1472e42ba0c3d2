#include "app/session/log_edits.h"

#include "app/theme/qt_text.h"
#include "store/event.h"
#include "store/series.h"
#include "store/step.h"

namespace heron {

std::optional<LogEdits::Kept> LogEdits::add_logs(Id test, Id step, const QString& label,
                                                 const std::vector<Series>& logs) {
  Session& s = session_;
  auto kept = std::make_shared<Kept>();
  s.change_test(
      test, s.tr("log %1").arg(label),
      [&s, kept, test, step, label, logs] {
        if (!kept->series.empty()) {
          if (step == 0) set_step_removed(s.shack(), kept->step, false);
          for (const Id id : kept->series) set_series_removed(s.shack(), id, false);
          return;
        }
        Kept made;
        made.step = step != 0 ? step : add_step(s.shack(), test, label.toStdString());
        for (const Series& log : logs) made.series.push_back(add_series(s.shack(), made.step, log));
        *kept = std::move(made);  // only when all are written
      },
      [&s, kept, step] {
        for (const Id id : kept->series) set_series_removed(s.shack(), id, true);
        if (step == 0) set_step_removed(s.shack(), kept->step, true);
      });
  if (kept->series.empty()) return std::nullopt;
  return *kept;
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
