#pragma once

#include "app/session/session.h"

namespace heron {

/// Logs and events of a test, each an undoable step of the session.
class LogEdits {
 public:
  explicit LogEdits(Session& session) : session_(session) {}
  struct Kept {
    Id step = 0;
    std::vector<Id> series;
  };
  /// Onto a step, or onto a new one of that name (step 0); nullopt if it was refused.
  std::optional<Kept> add_logs(Id test, Id step, const QString& label,
                               const std::vector<Series>& logs);
  /// Logs that were written, and hidden until they were whole. False if that was refused.
  bool show_logs(Id test, const QString& label, const Kept& kept);
  /// What was read at a stop, and under what, on the step of that name, or on a new one.
  void add_stop(Id test, const QString& step, const std::vector<Reading>& readings,
                const Condition& condition);
  /// A moment with words; `at` is UTC, ISO 8601.
  void add_event(Id test, const QString& words, const std::string& at);
  void remove_event(Id test, const Event& event);

 private:
  Session& session_;
};

}  // namespace heron
