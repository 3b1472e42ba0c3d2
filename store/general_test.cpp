#include "store/general_test.h"

#include <algorithm>

#include "store/clock.h"
#include "store/event.h"

namespace heron {

std::optional<std::size_t> GeneralTest::headline_step() const {
  return result.answers.empty() ? std::nullopt : result.answers.front().step;
}

const Answer* GeneralTest::answer_of(std::size_t step) const {
  const auto found = std::find_if(result.answers.begin(), result.answers.end(),
                                  [&](const Answer& a) { return a.step == step; });
  return found == result.answers.end() ? nullptr : &*found;
}

GeneralTest load_general_test(const Shack& shack, Id id, const Method& method) {
  GeneralTest t;
  t.test = test(shack, id);
  t.steps = steps(shack, id);
  t.method = &method;
  t.taken_on.resize(t.steps.size());
  t.evidence.limit = t.test.limit;
  for (const Step& s : t.steps) t.evidence.steps.push_back({s.label, s.conditions, s.readings});
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
