#include "store/general_test.h"

#include <algorithm>
#include <cmath>
#include <iterator>

#include "store/clock.h"
#include "store/event.h"
#include "store/reading.h"
#include "store/rows.h"

namespace heron {

std::optional<std::size_t> GeneralTest::headline_step() const {
  return result.answers.empty() ? std::nullopt : result.answers.front().step;
}

const Answer* GeneralTest::answer_of(std::size_t step) const {
  const auto found = std::find_if(result.answers.begin(), result.answers.end(),
                                  [&](const Answer& a) { return a.step == step; });
  return found == result.answers.end() ? nullptr : &*found;
}

namespace {

/// What of a step is in the units of its fields; anything else of the same name is damaged, told so
/// in the step, and left out.
EvidenceStep sound_evidence(Step& s, const Method& method) {
  const auto is_sound = [&](TypedField::Kind kind, const std::string& quantity,
                            const std::string& unit, double value) {
    bool is_known = false;
    for (const TypedField& f : method.fields) {
      if (f.kind != kind || f.quantity != quantity) continue;
      is_known = true;
      if (f.unit == unit && std::isfinite(value)) return true;
    }
    return !is_known;
  };
  EvidenceStep sound{s.label, {}, {}};
  const std::size_t all = s.readings.size() + s.conditions.size();
  std::copy_if(s.readings.begin(), s.readings.end(), std::back_inserter(sound.readings),
               [&](const Reading& r) {
                 return r.quantity != kDamagedReading &&
                        is_sound(TypedField::Kind::reading, r.quantity, r.unit, r.value);
               });
  std::copy_if(s.conditions.begin(), s.conditions.end(), std::back_inserter(sound.conditions),
               [&](const Condition& c) {
                 return is_sound(TypedField::Kind::condition, c.quantity, c.unit, c.value);
               });
  if (sound.readings.size() + sound.conditions.size() < all && s.damage.empty())
    add_damage(s.damage, "typed readings");
  return sound;
}

}  // namespace

GeneralTest load_general_test(const Shack& shack, Id id, const Method& method) {
  GeneralTest t;
  t.test = test(shack, id);
  t.steps = steps(shack, id);
  t.method = &method;
  t.taken_on.resize(t.steps.size());
  t.evidence.limit = t.test.limit;
  for (Step& s : t.steps) t.evidence.steps.push_back(sound_evidence(s, method));
  t.evidence.events = events(shack, id);
  t.result = method.evaluate(t.evidence);
  load_plan(shack, t);
  return t;
}

std::optional<Headline> headline_of(const GeneralTest& t) {
  if (t.result.answers.empty()) return std::nullopt;
  const Answer& a = t.result.answers.front();
  Headline h;
  h.figure = a.shown.value_or(a.figure);
  h.at = a.where;
  // When the last of it was read, where that is known.
  for (const Step& s : t.steps) {
    for (const Reading& r : s.readings) h.taken_at = std::max(h.taken_at, r.at);
  }
  if (h.taken_at.empty()) h.taken_at = utc_now();
  if (a.judgement) h.judgement = *a.judgement;
  h.limit = a.limit;
  if (h.limit) h.limit->span = a.margin_span;
  return h;
}

}  // namespace heron
