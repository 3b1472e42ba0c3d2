#include "store/planned_test.h"

#include <algorithm>

#include "core/error.h"
#include "store/clock.h"

namespace heron {

void load_plan(const Shack& shack, PlannedTest& t) {
  t.vouched = all_vouched(shack, t.test.id);
  if (t.test.hookup_id == 0) return;
  t.hookup = latest_version(shack, t.test.hookup_id);
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

bool PlannedTest::may_be_keyed() const {
  // What cannot be worked out is no safer than what does not stand it.
  const bool is_known = planned.has_value() || !hookup || !test.drive;
  if (is_known && (!planned || planned->is_safe)) return true;
  return std::any_of(vouched.begin(), vouched.end(), [&](const Vouched& v) {
    return v.version_id == hookup->id && v.pep_dbm >= test.drive->pep_dbm - 0.005;
  });
}

}  // namespace heron
