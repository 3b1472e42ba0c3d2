#pragma once

#include "app/session/session.h"
#include "core/method/acceptance.h"

namespace heron {

/// Changes of the shown test, each an undoable step of the session; a signed one refuses all but
/// its signature being taken back.
class TestEdits {
 public:
  explicit TestEdits(Session& session) : session_(session) {}
  void set_note(const QString& note);
  void set_convention(const QString& convention);
  void set_limit(const std::optional<Limit>& limit);
  /// A test of the device that is driven, measured alone, and of both; 0 = none.
  void set_driving(Id amplifier_test, Id pair_test);
  void set_settings(const QString& what, const nlohmann::json& settings);
  /// The headline as it is judged now is good enough, says somebody; nullopt takes that back.
  void accept(const std::optional<Acceptance>& acceptance);
  /// Why it is to be repeated; empty = it need not be.
  void set_provisional(const QString& reason);
  void set_hookup(const QString& words);
  void set_conditions(const QString& words);
  /// Makes the test's limit a line of the device's specification.
  void keep_limit_as_specification();
  void sign(const QString& name);
  void take_back_signature();
  /// Another test of the shown evaluation, and shows it.
  void add_test(const std::string& characteristic, const QString& title, const QString& conditions);
  void remove_test(Id test);
  void rename_test(Id test, const QString& title);
  /// The same once more right behind it, for another band or setting: hook-up, limit, settings and
  /// the names of its steps, nothing that was measured. Shows it.
  void duplicate_test(Id test, const QString& title);
  /// Before the one that stands before it in the plan's own list, or behind the next: `beside` is
  /// that one.
  void swap_tests(Id test, Id beside);

 private:
  Session& session_;
};

}  // namespace heron
