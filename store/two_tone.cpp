#include "store/two_tone.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/method/two_tone/refer_two_tone.h"
#include "core/method/two_tone/two_tone_json.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "store/device.h"
#include "store/result_record.h"
#include "store/rows.h"

namespace heron {
namespace {

using nlohmann::json;

std::optional<TwoToneAnalysis> stored_analysis(const Shack& shack, const StepCapture& capture) {
  const auto record = load_result(shack, capture.id);
  return record ? std::optional(two_tone_from_json(*record)) : std::nullopt;
}

/// Output of a step at the device: as typed, else from the recording's full scale.
std::optional<Figure> output_of(const Step& step, const std::optional<TwoToneAnalysis>& analysis,
                                const std::vector<Contribution>& path) {
  Figure output;
  output.id = "output";
  output.label = "Output";
  output.unit = "dBm";
  output.convention = "PEP";
  if (step.output) {
    output.value = step.output->dbm;
    if (step.output->u_db > 0.0)
      output.contributions = {{kTypedOutput, step.output->u_db, Scope::common}};
    return output;
  }
  if (!analysis || !analysis->full_scale_dbm || analysis->tones.size() != 2) return std::nullopt;
  output.value = analysis->pep_dbfs + *analysis->full_scale_dbm;
  const double noise = std::hypot(analysis->tones[0].u_db, analysis->tones[1].u_db) / 2.0;
  if (noise > 0.0)
    output.contributions.push_back({analysis->noise_source, noise, Scope::independent});
  output.contributions.insert(output.contributions.end(), path.begin(), path.end());
  if (path.empty()) output.contributions.push_back({kAssumedLevel, kAssumedU, Scope::common});
  return output;
}

/// Scatter of every product over all takes of a step, pooled: one more take than one is enough.
double pooled_scatter_db(const TwoToneAnalysis& latest,
                         const std::vector<TwoToneAnalysis>& others) {
  double squares = 0.0;
  std::size_t freedom = 0;
  for (const TwoToneProduct& p : latest.products) {
    if (p.is_bound) continue;
    std::vector<double> levels{p.level_dbc};
    for (const TwoToneAnalysis& other : others) {
      const TwoToneProduct* same = other.find(p.order, p.side);
      if (same != nullptr && !same->is_bound) levels.push_back(same->level_dbc);
    }
    if (levels.size() < 2) continue;
    double mean = 0.0;
    for (const double v : levels) mean += v / static_cast<double>(levels.size());
    for (const double v : levels) squares += (v - mean) * (v - mean);
    freedom += levels.size() - 1;
  }
  return freedom > 0 ? std::sqrt(squares / static_cast<double>(freedom)) : 0.0;
}

void add_self_test_remark(TwoToneAnalysis& a, const SelfTest& test) {
  if (test.rows.empty()) return;
  std::string made;
  double largest = 0.0;
  double fall = 0.0;
  for (const SelfTestRow& row : test.rows) {
    largest = std::max(largest, std::abs(row.change_db));
    if (!row.made_by_sampler) continue;
    made += (made.empty() ? "" : ", ") + row.product;
    fall = std::min(fall, row.change_db);
  }
  if (made.empty()) {
    a.remarks.push_back(
        {"self_test", Severity::note,
         fmt::format("Self-test: with {} dB more attenuation no product moved by more than {} dB. "
                     "The device makes them, not the recorder.",
                     number_text(test.added_db, 0), number_text(largest, 1)),
         ""});
    return;
  }
  a.remarks.push_back(
      {"sampler_made", Severity::caution,
       fmt::format("Self-test: {} fell by up to {} dB with {} dB more attenuation: the recorder "
                   "makes it.",
                   made, number_text(-fall, 1), number_text(test.added_db, 0)),
       fmt::format("Keep {} dB more before the recorder and take the ladder again",
                   number_text(test.added_db, 0))});
}

void add_output_remark(TwoToneAnalysis& a, const Step& step,
                       const std::vector<Contribution>& path) {
  if (!step.output || !a.full_scale_dbm || a.tones.size() != 2) return;
  Step measured_only = step;
  measured_only.output.reset();
  const auto measured = output_of(measured_only, a, path);
  const auto typed = output_of(step, a, path);
  if (!measured || !typed || measured->u() <= 0.0) return;
  const double apart = typed->value - measured->value;
  const double expanded = 2.0 * std::hypot(measured->u(), typed->u());
  if (std::abs(apart) <= expanded) return;
  const auto watts = [](double dbm) { return engineering_text(to_watt(Dbm{dbm}).value, "W", 3); };
  a.remarks.push_back(
      {"outputs_differ", Severity::caution,
       fmt::format("Typed {}, measured {} through the hook-up: {} dB apart, more than \u00b1 {} dB "
                   "allows.",
                   watts(typed->value), watts(measured->value), number_text(apart, 1, true),
                   number_text(expanded, 1)),
       "Check the pad, the probe and the meter"});
}

/// One step's evidence as figures at the device.
class StepLoader {
 public:
  StepLoader(const Shack& shack, TwoToneTest& t) : shack_(shack), t_(t) {}

  void load(Step& step) {
    std::optional<TwoToneAnalysis> analysis;
    std::optional<HookupVersion> on;
    std::optional<SelfTest> self_test;
    std::vector<Contribution> path;
    if (step.capture)
      analysis = read_or_damage(step.damage, "result",
                                [&] { return stored_analysis(shack_, *step.capture); });
    if (analysis) {
      on = taken_on(shack_, step);
      self_test =
          read_or_damage(step.damage, "self-test", [&] { return self_test_of(step, *analysis); });
      analysis->repeatability_u_db = read_or_damage(step.damage, "repeats", [&] {
                                       return repeatability(step, *analysis);
                                     }).value_or(0.0);
      // The ladder is judged with the test's present settings, not those of the day it was taken.
      const std::optional<double> stated = t_.settings.linearity_u_db > 0.0
                                               ? std::optional(t_.settings.linearity_u_db)
                                               : std::nullopt;
      set_linearity(*analysis, recorder_linearity(stated, on ? &on->chain : nullptr),
                    on.has_value());
      const Part* recorder = on ? recorder_of(on->chain) : nullptr;
      if (recorder != nullptr && !analysis->full_scale_dbm)
        analysis->full_scale_dbm = recorder->full_scale_dbm;
      if (on) refer(*analysis, on->chain, path);
      if (self_test) add_self_test_remark(*analysis, *self_test);
      add_output_remark(*analysis, step, path);
      sort_remarks(analysis->remarks);
    } else if (!step.products.empty()) {
      analysis = analysis_from_readings(step.products, t_.ladder_settings.reading_u_db);
    }
    t_.outputs.push_back(output_of(step, analysis, path));
    t_.analyses.push_back(std::move(analysis));
    t_.taken_on.push_back(std::move(on));
    t_.self_tests.push_back(std::move(self_test));
  }

 private:
  void refer(TwoToneAnalysis& a, const Chain& chain, std::vector<Contribution>& path) const {
    const double center = center_of(a, t_.test.drive).value_or(0.0);
    try {
      path = level_contributions(chain, center);
      a = refer_to_device(a, chain, center);
    } catch (const InputError& error) {
      a.full_scale_dbm.reset();
      a.remarks.push_back(
          {"not_referred", Severity::caution,
           "Levels are those at the recorder, not at the device: " + error.what_happened() + ".",
           error.advice});
    }
  }

  std::optional<SelfTest> self_test_of(const Step& step, const TwoToneAnalysis& normal) const {
    if (!step.self_test) return std::nullopt;
    const auto attenuated = stored_analysis(shack_, *step.self_test);
    if (!attenuated) return std::nullopt;
    const AddedAttenuation added = step.self_test->added.value_or(AddedAttenuation{});
    return SelfTest{added.db, sampler_self_test(normal, *attenuated, added.db)};
  }

  double repeatability(const Step& step, const TwoToneAnalysis& latest) const {
    std::vector<TwoToneAnalysis> others;
    for (const StepCapture& repeat : step.repeats) {
      // Only what was taken on the same hook-up is the same measurement taken again.
      if (repeat.hookup_version_id != step.capture->hookup_version_id) continue;
      if (auto analysis = stored_analysis(shack_, repeat)) others.push_back(std::move(*analysis));
    }
    return pooled_scatter_db(latest, others);
  }

  const Shack& shack_;
  TwoToneTest& t_;
};

TwoToneTest load_alone(const Shack& shack, Id id) {
  TwoToneTest t;
  t.test = test(shack, id);
  t.settings = read_or_damage(t.test.damage, "settings", [&] {
                 return two_tone_settings_from_json(t.test.settings);
               }).value_or(TwoToneSettings{});
  // A convention that is none would make every figure of the test wrong.
  const auto is_known = [](const std::string& c) { return c == kReOneTone || c == kRePep; };
  if (!t.test.convention.empty() && !is_known(t.test.convention)) {
    add_damage(t.test.damage, "convention");
    t.test.convention = kRePep;
  }
  if (t.test.limit && !is_known(t.test.limit->convention)) {
    add_damage(t.test.damage, "limit");
    t.test.limit.reset();
  }
  t.ladder_settings = ladder_settings_from_json(t.test.settings);
  t.steps = steps(shack, id);
  StepLoader loader(shack, t);
  for (Step& step : t.steps) loader.load(step);
  load_plan(shack, t);
  return t;
}

std::vector<AmplifierStep> driven_steps(const TwoToneTest& t) {
  std::vector<AmplifierStep> steps;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const auto drive = drive_of_label(t.steps[i].label);
    if (drive && t.outputs[i] && t.analyses[i] && !t.analyses[i]->products.empty())
      steps.push_back({*drive, t.outputs[i]->value, &*t.analyses[i]});
  }
  return steps;
}

void add_driven(const Shack& shack, TwoToneTest& t) {
  if (t.test.amplifier_test_id == 0) return;
  const auto loaded = read_or_damage(t.test.damage, "the amplifier's test",
                                     [&] { return load_alone(shack, t.test.amplifier_test_id); });
  if (!loaded) return;
  const TwoToneTest& amplifier = *loaded;
  std::optional<TwoToneTest> pair;
  if (t.test.pair_test_id != 0)
    pair = read_or_damage(t.test.damage, "the test of both",
                          [&] { return load_alone(shack, t.test.pair_test_id); });
  t.amplifier_name = device(shack, evaluation(shack, amplifier.test.evaluation_id).device_id).name;
  const std::string convention = t.test.limit ? t.test.limit->convention : std::string(kRePep);
  t.driven = predict_driven(t.evidence(), driven_steps(amplifier),
                            pair ? driven_steps(*pair) : std::vector<AmplifierStep>{}, convention,
                            t.test.limit ? std::optional(t.test.limit->value) : std::nullopt);
}

}  // namespace

LadderSettings ladder_settings_from_json(const json& settings) {
  LadderSettings ladder;
  const auto found = settings.find("ladder");
  if (found == settings.end() || !found->is_object()) return ladder;
  const json& r = *found;
  if (r.contains("ceiling_dbm") && r["ceiling_dbm"].is_number())
    ladder.ceiling_dbm = r["ceiling_dbm"].get<double>();
  if (r.contains("ceiling_typed") && r["ceiling_typed"].is_string())
    ladder.ceiling_typed = r["ceiling_typed"].get<std::string>();
  if (r.contains("reading_u_db") && r["reading_u_db"].is_number())
    ladder.reading_u_db = std::clamp(r["reading_u_db"].get<double>(), 0.0, 10.0);
  return ladder;
}

json with_ladder_settings(json settings, const LadderSettings& ladder) {
  json r = {{"reading_u_db", ladder.reading_u_db}};
  if (ladder.ceiling_dbm) {
    r["ceiling_dbm"] = *ladder.ceiling_dbm;
    r["ceiling_typed"] = ladder.ceiling_typed;
  }
  settings["ladder"] = r;
  return settings;
}

std::optional<double> center_of(const TwoToneAnalysis& a, const std::optional<Drive>& drive) {
  if (a.capture.center_hz) return a.capture.center_hz;
  if (drive && drive->frequency_hz > 0.0) return drive->frequency_hz - a.carrier_hz;
  return std::nullopt;
}

std::vector<Id> pin_frequencies(Shack& shack, Id id) {
  std::vector<Id> pinned;
  const Test t = test(shack, id);
  if (!t.drive) return pinned;
  for (const Step& step : steps(shack, id)) {
    if (!step.capture || step.capture->hookup_version_id == 0) continue;
    auto analysis = stored_analysis(shack, *step.capture);
    if (!analysis || analysis->capture.center_hz) continue;
    analysis->capture.center_hz = center_of(*analysis, t.drive);
    save_result(shack, step.capture->id, "two_tone", to_json(*analysis));
    pinned.push_back(step.capture->id);
  }
  return pinned;
}

void unpin_frequencies(Shack& shack, const std::vector<Id>& step_captures) {
  for (const Id id : step_captures) {
    const auto record = load_result(shack, id);
    if (!record) continue;
    TwoToneAnalysis analysis = two_tone_from_json(*record);
    analysis.capture.center_hz.reset();
    save_result(shack, id, "two_tone", to_json(analysis));
  }
}

std::vector<LadderStep> TwoToneTest::evidence() const {
  std::vector<LadderStep> list;
  for (std::size_t i = 0; i < steps.size(); ++i)
    list.push_back({steps[i].label, outputs[i], analyses[i] ? &*analyses[i] : nullptr});
  return list;
}

std::optional<std::size_t> TwoToneTest::headline_step() const {
  std::optional<std::size_t> best;
  for (std::size_t i = 0; i < ladder.rows.size(); ++i) {
    const LadderRow& row = ladder.rows[i];
    if (!row.worst) continue;
    if (!best) {
      best = i;
      continue;
    }
    const auto& output = ladder.rows[*best].output_dbm;
    if (row.output_dbm && (!output || *row.output_dbm > *output)) best = i;
  }
  return best;
}

void reevaluate(TwoToneTest& t) {
  t.ladder = evaluate_ladder(t.evidence(), t.test.limit);
  std::vector<TypedStep> typed;
  for (const Step& step : t.steps) {
    typed.push_back(
        {step.label, step.output ? std::optional(step.output->dbm) : std::nullopt, step.products});
  }
  t.doubts = doubt_readings(typed);
}

TwoToneTest load_two_tone_test(const Shack& shack, Id id) {
  TwoToneTest t = load_alone(shack, id);
  reevaluate(t);
  add_driven(shack, t);
  return t;
}

std::optional<Headline> headline_of(const TwoToneTest& t) {
  const auto step = t.headline_step();
  if (!step) return std::nullopt;
  const LadderRow& row = t.ladder.rows[*step];
  const auto& capture = t.steps[*step].capture;
  return Headline{*row.worst, row.label, capture ? capture->taken_at : utc_now(), row.judgement};
}

}  // namespace heron
