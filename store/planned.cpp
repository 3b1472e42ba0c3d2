#include "store/planned.h"

#include <algorithm>

#include "core/error.h"
#include "core/method/method.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "store/clock.h"
#include "store/rows.h"

namespace heron {

namespace {

/// The first gate of the evaluation with something open.
void load_gate(const Shack& shack, PlannedTest& t) {
  const Method* own = find_method(t.test.characteristic);
  if (own != nullptr && own->is_gate) return;
  for (const Test& other : tests(shack, t.test.evaluation_id)) {
    const Method* method = find_method(other.characteristic);
    if (method == nullptr || !method->is_gate) continue;
    const bool is_open = !other.headline ||
                         other.headline->judgement.verdict == Verdict::incomplete ||
                         other.headline->judgement.verdict == Verdict::not_taken;
    if (!is_open) continue;
    t.open_gate = other.id;
    t.open_gate_words = other.title + ": " +
                        (other.headline ? number_text(other.headline->figure.value, 0) + " " +
                                              other.headline->figure.unit
                                        : std::string("nothing checked"));
    return;
  }
}

}  // namespace

void load_plan(const Shack& shack, PlannedTest& t) {
  load_gate(shack, t);
  t.vouched = all_vouched(shack, t.test.id);
  if (t.test.hookup_id == 0) return;
  t.hookup = read_or_damage(t.test.damage, "hook-up",
                            [&] { return latest_version(shack, t.test.hookup_id); });
  t.is_hookup_damaged = !t.hookup;
  if (!t.hookup) return;
  t.hookup->chain = aged(t.hookup->chain, utc_now());
  if (!t.test.drive) {
    t.not_planned = "No drive is planned for this hook-up, so nothing says whether it is safe.";
    return;
  }
  try {
    t.planned = evaluate_chain(t.hookup->chain, *t.test.drive);
  } catch (const InputError& error) {
    t.not_planned = error.what_happened() + ". " + error.advice + ".";
  }
}

std::optional<HookupVersion> taken_on(const Shack& shack, const StepCapture& capture) {
  if (capture.hookup_version_id == 0) return std::nullopt;
  HookupVersion on = hookup_version(shack, capture.hookup_version_id);
  on.chain = aged(on.chain, capture.taken_at);
  return on;
}

std::optional<HookupVersion> taken_on(const Shack& shack, Step& step) {
  if (!step.capture) return std::nullopt;
  return read_or_damage(step.damage, "hook-up", [&] { return taken_on(shack, *step.capture); });
}

std::optional<PlannedTest::KeyingObstacle> PlannedTest::keying_obstacle() const {
  if (auto of_hookup = hookup_obstacle()) return of_hookup;
  if (open_gate == 0) return std::nullopt;
  return KeyingObstacle{"Checks before power are open (" + open_gate_words + ").",
                        "Finish them, or skip them with a reason", false, true};
}

std::optional<PlannedTest::KeyingObstacle> PlannedTest::hookup_obstacle() const {
  if (is_hookup_damaged)
    return KeyingObstacle{"The record of the hook-up is damaged: nothing says whether it is safe.",
                          "Choose another hook-up for this test", true};
  if (!hookup || !test.drive) return std::nullopt;
  // What cannot be worked out is no safer than what is over its rating.
  if (planned && planned->is_known_safe()) return std::nullopt;
  const bool is_vouched = std::any_of(vouched.begin(), vouched.end(), [&](const Vouched& v) {
    return v.version_id == hookup->id && v.pep_dbm >= test.drive->pep_dbm - 0.005;
  });
  if (is_vouched) return std::nullopt;
  const std::string at = engineering_text(to_watt(Dbm{test.drive->pep_dbm}).value, "W", 3);
  if (!planned)
    return KeyingObstacle{"Whether the hook-up is safe cannot be calculated: " + not_planned, "",
                          true};
  if (!planned->is_safe)
    return KeyingObstacle{"The hook-up is not safe at the planned drive of " + at + ".",
                          "Change it, lower the drive, or override it by name in its editor",
                          false};
  return KeyingObstacle{
      "Nothing says whether " + planned->unrated.front() + " is rated for this at " + at + ".",
      "Enter its rating on the bench, or override it by name in the hook-up's editor", true};
}

}  // namespace heron
