#include "store/general.h"

#include <algorithm>
#include <cmath>
#include <iterator>

#include "core/method/decided_result.h"
#include "store/beside.h"
#include "store/clock.h"
#include "store/device.h"
#include "store/event.h"
#include "store/reading.h"
#include "store/result_record.h"
#include "store/rows.h"
#include "store/series.h"

namespace heron {

std::optional<std::size_t> GeneralTest::headline_item() const {
  return result.answers.empty() ? std::nullopt : result.answers.front().step;
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
  // Relative to something unknown it says nothing.
  const auto is_relative = [&](const Reading& r) {
    return method.conventions.empty() || r.unit != "dB" || has_convention(method, r.convention);
  };
  EvidenceStep sound;
  sound.label = s.label;
  const std::size_t all = s.readings.size() + s.conditions.size();
  std::copy_if(s.readings.begin(), s.readings.end(), std::back_inserter(sound.readings),
               [&](const Reading& r) {
                 return r.quantity != kDamagedReading && is_relative(r) &&
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

AnalysisPtr analysis_of(const Shack& shack, Step& step, const Method& method,
                        const StepCapture& capture, const char* what) {
  return read_or_damage(step.damage, what,
                        [&]() -> std::optional<AnalysisPtr> {
                          const auto text = load_result_text(shack, capture.id);
                          if (!text) return std::nullopt;
                          if (auto known = shack.analyses().find(capture.id, *text)) return known;
                          AnalysisPtr read = method.read_record(parse_stored(*text, "a result"));
                          shack.analyses().keep(capture.id, *text, read);
                          return read;
                        })
      .value_or(nullptr);
}

/// What the recordings of a step say, and what they were made through.
void add_recordings(const Shack& shack, Step& step, const Method& method, GeneralTest& t,
                    EvidenceStep& evidence) {
  if (step.capture && method.read_record != nullptr)
    evidence.analysis = analysis_of(shack, step, method, *step.capture, "result");
  t.taken_on.push_back(taken_on(shack, step));
  if (const auto& on = t.taken_on.back()) evidence.path = on->chain;
  if (method.has_repeats) {
    for (const StepCapture& repeat : step.repeats) {
      // Only what was taken on the same hook-up is the same measurement taken again.
      if (repeat.hookup_version_id != step.capture->hookup_version_id) continue;
      if (auto again = analysis_of(shack, step, method, repeat, "repeats"))
        evidence.repeats.push_back(std::move(again));
    }
  }
  if (method.self_test_hint.empty() || !step.self_test || !step.self_test->added) return;
  SecondTake again{analysis_of(shack, step, method, *step.self_test, "self-test"),
                   step.self_test->added->db};
  if (again.analysis == nullptr) return;
  const auto on =
      read_or_damage(step.damage, "hook-up", [&] { return taken_on(shack, *step.self_test); });
  if (on) again.path = on->chain;
  evidence.second_take = std::move(again);
}

}  // namespace

namespace {

/// A convention that is none would make every figure of the test wrong.
void check_conventions(const Method& method, Test& t) {
  if (method.conventions.empty()) return;
  if (!t.convention.empty() && !has_convention(method, t.convention)) {
    add_damage(t.damage, "convention");
    t.convention.clear();
  }
  if (t.limit && !has_convention(method, t.limit->convention)) {
    add_damage(t.damage, "limit");
    t.limit.reset();
  }
}

}  // namespace

GeneralTest load_evidence(const Shack& shack, Id id, const Method& method) {
  GeneralTest t;
  t.test = test(shack, id);
  t.steps = steps(shack, id);
  t.method = &method;
  check_conventions(method, t.test);
  t.evidence.limit = t.test.limit;
  t.evidence.convention = t.test.convention;
  t.evidence.convention = convention_of(method, t.evidence);
  t.evidence.settings = sound_settings(method, t.test);
  for (Step& s : t.steps) {
    EvidenceStep step = sound_evidence(s, method);
    add_recordings(shack, s, method, t, step);
    if (method.read_log != nullptr)
      step.series = read_or_damage(s.damage, "log", [&] {
                      return series_of_step(shack, s.id);
                    }).value_or(std::vector<SeriesPtr>());
    step.is_damaged = !s.damage.empty();
    t.evidence.steps.push_back(std::move(step));
  }
  t.evidence.events = events(shack, id);
  load_plan(shack, t);
  t.evidence.drive = t.test.drive;
  t.evidence.most_drive_dbm =
      device(shack, evaluation(shack, t.test.evaluation_id).device_id).facts.most_drive_dbm;
  if (t.hookup) t.evidence.hookup = t.hookup->chain;
  return t;
}

namespace {

/// Another test of the same kind as evidence; nullptr, and named as damage, if it cannot be read.
std::shared_ptr<const Evidence> evidence_of(const Shack& shack, GeneralTest& t, Id other,
                                            const char* what) {
  if (other == 0) return nullptr;
  auto loaded =
      read_or_damage(t.test.damage, what, [&] { return load_evidence(shack, other, *t.method); });
  return loaded ? std::make_shared<const Evidence>(std::move(loaded->evidence)) : nullptr;
}

/// All tests of the kinds that its method sees, in their order; damaged ones say nothing.
std::vector<Neighbour> neighbours_of(const Shack& shack, const GeneralTest& t) {
  std::vector<Neighbour> all;
  for (const Test& other : tests(shack, t.test.evaluation_id)) {
    const Method* method = find_method(other.characteristic);
    if (method == nullptr ||
        std::find(t.method->sees.begin(), t.method->sees.end(), method->id) == t.method->sees.end())
      continue;
    std::string damage;
    auto loaded =
        read_or_damage(damage, "test", [&] { return load_evidence(shack, other.id, *method); });
    if (loaded)
      all.push_back({std::string(method->id),
                     std::make_shared<const Evidence>(std::move(loaded->evidence)), other.id});
  }
  return all;
}

/// What the first test of its companion kind in the same evaluation holds; a damaged one says
/// nothing.
std::shared_ptr<const Evidence> companion_of(const Shack& shack, const GeneralTest& t) {
  const Method* method = find_method(t.method->companion);
  if (method == nullptr) return nullptr;
  for (const Test& other : tests(shack, t.test.evaluation_id)) {
    if (other.characteristic != method->id) continue;
    std::string damage;
    auto loaded =
        read_or_damage(damage, "test", [&] { return load_evidence(shack, other.id, *method); });
    if (loaded) return std::make_shared<const Evidence>(std::move(loaded->evidence));
  }
  return nullptr;
}

/// Up to where other tests of the evaluation say that the device is linear; the last one counts.
std::optional<Figure> linear_output_of(const Shack& shack, const GeneralTest& t) {
  std::optional<Figure> found;
  for (const Test& other : tests(shack, t.test.evaluation_id)) {
    const Method* method = find_method(other.characteristic);
    if (method == nullptr || method->linear_output == nullptr) continue;
    std::string damage;
    const auto loaded =
        read_or_damage(damage, "test", [&] { return load_evidence(shack, other.id, *method); });
    if (!loaded) continue;
    if (auto figure = method->linear_output(loaded->evidence)) found = std::move(figure);
  }
  return found;
}

/// Another test of the same kind that somebody compares it with.
void add_compared(const Shack& shack, GeneralTest& t) {
  const auto found = t.evidence.settings.find(kComparedWith);
  if (found == t.evidence.settings.end() || !found->is_number_integer()) return;
  const Id id = found->get<Id>();
  std::string damage;
  const auto other = read_or_damage(damage, "test", [&] { return test(shack, id); });
  if (!other || id == t.test.id || other->characteristic != t.test.characteristic ||
      !is_evaluation_there(shack, other->evaluation_id))
    return;
  auto loaded = read_or_damage(t.test.damage, "the test it is compared with",
                               [&] { return load_evidence(shack, id, *t.method); });
  if (!loaded) return;
  if (!t.method->sees.empty()) loaded->evidence.neighbours = neighbours_of(shack, *loaded);
  t.evidence.compared = std::make_shared<const Evidence>(std::move(loaded->evidence));
  const Evaluation of = evaluation(shack, other->evaluation_id);
  t.evidence.compared_name = device(shack, of.device_id).name + ", " + of.title;
  t.evidence.is_compared_on_same =
      other->hookup_id == t.test.hookup_id &&
      (t.test.hookup_id != 0 || other->evaluation_id == t.test.evaluation_id);
}

void add_driven(const Shack& shack, GeneralTest& t) {
  const Id alone = t.test.amplifier_test_id;
  DrivenDevice driven;
  driven.alone = evidence_of(shack, t, alone, "the amplifier's test");
  if (driven.alone == nullptr) return;
  driven.both = evidence_of(shack, t, t.test.pair_test_id, "the test of both");
  const Id its_evaluation = test(shack, alone).evaluation_id;
  driven.name = device(shack, evaluation(shack, its_evaluation).device_id).name;
  t.evidence.driven = std::move(driven);
}

}  // namespace

nlohmann::json sound_settings(const Method& method, Test& test) {
  nlohmann::json settings;
  const bool is_sound = read_or_damage(test.damage, "settings", [&] {
                          if (method.check != nullptr) method.check(test.settings);
                          return true;
                        }).value_or(false);
  if (is_sound)
    settings =
        method.renewed_settings != nullptr ? method.renewed_settings(test.settings) : test.settings;
  return settings.is_object() ? settings : nlohmann::json::object();
}

GeneralTest load_general_test(const Shack& shack, Id id, const Method& method) {
  GeneralTest t = load_evidence(shack, id, method);
  if (!method.beside.empty()) {
    const auto beside = figures_beside(shack, t.test.evaluation_id, method.beside);
    for (EvidenceStep& s : t.evidence.steps) {
      if (const auto found = beside.find(s.label); found != beside.end()) s.beside = found->second;
    }
  }
  if (!method.driven_view.empty()) add_driven(shack, t);
  if (method.compares_tests) add_compared(shack, t);
  if (!method.companion.empty()) t.evidence.companion = companion_of(shack, t);
  if (!method.sees.empty()) t.evidence.neighbours = neighbours_of(shack, t);
  if (method.shows_linear_output) t.evidence.linear_output = linear_output_of(shack, t);
  t.result = decided_result(method, t.evidence);
  return t;
}

std::optional<Headline> headline_of(const GeneralTest& t) {
  if (t.result.answers.empty()) return std::nullopt;
  const Answer& a = t.result.answers.front();
  Headline h;
  h.figure = a.shown.value_or(a.figure);
  h.at = a.where;
  // When it was recorded, or the last of it read, where that is known.
  if (t.method->is_joint) {
    for (const Step& s : t.steps) {
      if (s.capture) h.taken_at = std::max(h.taken_at, s.capture->taken_at);
    }
  } else if (a.step && t.steps[*a.step].capture) {
    h.taken_at = t.steps[*a.step].capture->taken_at;
  } else {
    for (const Step& s : t.steps) {
      for (const Reading& r : s.readings) h.taken_at = std::max(h.taken_at, r.at);
    }
  }
  if (h.taken_at.empty() && t.method->is_joint) {
    for (const Step& s : t.steps) {
      for (const Reading& r : s.readings) h.taken_at = std::max(h.taken_at, r.at);
    }
  }
  if (h.taken_at.empty()) h.taken_at = utc_now();
  if (a.judgement) h.judgement = *a.judgement;
  h.limit = a.limit;
  h.is_provisional = a.is_provisional;
  if (h.limit) h.limit->span = a.margin_span;
  return h;
}

}  // namespace heron
