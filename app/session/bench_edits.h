#pragma once

#include "app/session/session.h"
#include "store/bench.h"
#include "store/hookup.h"

namespace heron {

/// Changes of the bench and of hook-ups, each an undoable step of the session.
class BenchEdits {
 public:
  explicit BenchEdits(Session& session) : session_(session) {}

  /// Returns its id; 0 if it was refused.
  Id add_item(const BenchItem& item);
  void set_item(Id id, const BenchItem& item, const QString& what);
  void set_retired(Id id, bool retired);
  void remove_item(Id id);
  /// All of a file's things at once; returns how many.
  int add_items(const std::vector<BenchItem>& items, const QString& from);

  /// Returns its id; 0 if it was refused.
  Id add_hookup(const QString& name, const Chain& chain);
  void rename_hookup(Id id, const QString& name);
  void remove_hookup(Id id);
  /// A new version if recordings were taken on the present one.
  void save_hookup(Id id, const Chain& chain);
  /// Which hook-up a test is taken on. Recordings that had none get its present version; others
  /// keep theirs.
  void choose_hookup(Id test, Id hookup);
  void set_drive(Id test, const std::optional<Drive>& drive);
  /// Puts one recording on the present version of its test's hook-up.
  void take_on_present(Id test, Id step_capture, Id version_before);
  /// Not undone: who vouched stays in the record. False if it was refused.
  bool vouch_for(Id test, const Vouched& vouched);

 private:
  Session& session_;
};

}  // namespace heron
