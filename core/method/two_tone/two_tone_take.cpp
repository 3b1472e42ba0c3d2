#include "core/method/two_tone/two_tone_take.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/error.h"
#include "core/method/measure/path_level.h"
#include "core/method/two_tone/refer_two_tone.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

const TwoToneAnalysis* kept(const AnalysisPtr& analysis) {
  const auto* record = dynamic_cast<const TwoToneRecord*>(analysis.get());
  return record != nullptr ? &record->analysis : nullptr;
}

/// The output that somebody typed; nullptr if nobody did.
const Reading* typed_output(const EvidenceStep& step) {
  const Reading* found = nullptr;
  for (const Reading& r : step.readings) {
    if (r.quantity == "output" && r.role == ReadingRole::at && r.source == ReadingSource::typed)
      found = &r;
  }
  return found;
}

Figure output_figure(double dbm) {
  Figure output;
  output.id = "output";
  output.label = "Output";
  output.value = dbm;
  output.unit = "dBm";
  output.convention = "PEP";
  return output;
}

Figure as_typed(const Reading& typed) {
  Figure output = output_figure(typed.value);
  if (typed.u > 0.0) output.contributions = {{kTypedOutput, typed.u, Scope::common}};
  return output;
}

/// From the recording's full scale, through the hook-up.
std::optional<Figure> as_recorded(const TwoToneAnalysis& a, const std::vector<Contribution>& path) {
  if (!a.full_scale_dbm || a.tones.size() != 2) return std::nullopt;
  Figure output = output_figure(a.pep_dbfs + *a.full_scale_dbm);
  const double noise = std::hypot(a.tones[0].u_db, a.tones[1].u_db) / 2.0;
  if (noise > 0.0) output.contributions.push_back({a.noise_source, noise, Scope::independent});
  output.contributions.insert(output.contributions.end(), path.begin(), path.end());
  if (path.empty()) output.contributions.push_back({kAssumedLevel, kAssumedU, Scope::common});
  return output;
}

/// Scatter of every product over all takes of a step, pooled: one more take than one is enough.
double pooled_scatter_db(const TwoToneAnalysis& latest, const std::vector<AnalysisPtr>& others) {
  double squares = 0.0;
  std::size_t freedom = 0;
  for (const TwoToneProduct& p : latest.products) {
    if (p.is_bound) continue;
    std::vector<double> levels{p.level_dbc};
    for (const AnalysisPtr& other : others) {
      const TwoToneAnalysis* again = kept(other);
      const TwoToneProduct* same = again != nullptr ? again->find(p.order, p.side) : nullptr;
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

void add_self_test_remark(TwoToneAnalysis& a, const std::vector<SelfTestRow>& rows,
                          double added_db) {
  if (rows.empty()) return;
  std::string made;
  double largest = 0.0;
  double fall = 0.0;
  for (const SelfTestRow& row : rows) {
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
                     number_text(added_db, 0), number_text(largest, 1)),
         ""});
    return;
  }
  a.remarks.push_back(
      {"sampler_made", Severity::caution,
       fmt::format("Self-test: {} fell by up to {} dB with {} dB more attenuation: the recorder "
                   "makes it.",
                   made, number_text(-fall, 1), number_text(added_db, 0)),
       fmt::format("Keep {} dB more before the recorder and take the ladder again",
                   number_text(added_db, 0))});
}

void add_output_remark(TwoToneAnalysis& a, const Figure& typed,
                       const std::vector<Contribution>& path) {
  const auto measured = as_recorded(a, path);
  if (!measured || measured->u() <= 0.0) return;
  const double apart = typed.value - measured->value;
  const double expanded = 2.0 * std::hypot(measured->u(), typed.u());
  if (std::abs(apart) <= expanded) return;
  const auto watts = [](double dbm) { return engineering_text(to_watt(Dbm{dbm}).value, "W", 3); };
  a.remarks.push_back(
      {"outputs_differ", Severity::caution,
       fmt::format("Typed {}, measured {} through the hook-up: {} dB apart, more than \u00b1 {} dB "
                   "allows.",
                   watts(typed.value), watts(measured->value), number_text(apart, 1, true),
                   number_text(expanded, 1)),
       "Check the pad, the probe and the meter"});
}

void refer(TwoToneAnalysis& a, const Chain& chain, const std::optional<Drive>& drive,
           std::vector<Contribution>& path) {
  const double center = center_of(a, drive).value_or(0.0);
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

/// What one step says at the device.
struct StepTake {
  std::optional<TwoToneAnalysis> analysis;
  std::optional<Figure> output;
};

/// A recording with everything that is known of its step.
TwoToneAnalysis at_device(const TwoToneAnalysis& recorded, const EvidenceStep& step,
                          const std::optional<Drive>& drive, const LadderSettings& settings,
                          std::vector<Contribution>& path) {
  TwoToneAnalysis a = recorded;
  a.repeatability_u_db = pooled_scatter_db(a, step.repeats);
  // The ladder is judged with the test's present settings, not those of the day it was taken.
  const std::optional<double> stated =
      settings.linearity_db ? std::optional(*settings.linearity_db / 2.0) : std::nullopt;
  set_linearity(a, recorder_linearity(stated, step.path ? &*step.path : nullptr),
                step.path.has_value());
  const Part* recorder = step.path ? recorder_of(*step.path) : nullptr;
  if (recorder != nullptr && !a.full_scale_dbm) a.full_scale_dbm = recorder->full_scale_dbm;
  if (step.path) refer(a, *step.path, drive, path);
  const TwoToneAnalysis* again = step.second_take ? kept(step.second_take->analysis) : nullptr;
  if (again != nullptr)
    add_self_test_remark(a, sampler_self_test(recorded, *again, step.second_take->added_db),
                         step.second_take->added_db);
  return a;
}

StepTake take_step(const EvidenceStep& step, const std::optional<Drive>& drive,
                   const LadderSettings& settings) {
  StepTake take;
  std::vector<Contribution> path;
  const Reading* typed = typed_output(step);
  if (typed != nullptr) take.output = as_typed(*typed);
  if (const TwoToneAnalysis* recorded = kept(step.analysis)) {
    TwoToneAnalysis a = at_device(*recorded, step, drive, settings, path);
    if (take.output)
      add_output_remark(a, *take.output, path);
    else
      take.output = as_recorded(a, path);
    sort_remarks(a.remarks);
    take.analysis = std::move(a);
  } else if (const auto products = products_of(step.readings); !products.empty()) {
    take.analysis = analysis_from_readings(products, settings.reading_u_db);
  }
  return take;
}

std::vector<TypedStep> typed_steps(const Evidence& evidence) {
  std::vector<TypedStep> all;
  for (const EvidenceStep& step : evidence.steps) {
    const Reading* output = typed_output(step);
    all.push_back({step.label, output != nullptr ? std::optional(output->value) : std::nullopt,
                   products_of(step.readings)});
  }
  return all;
}

/// All but what is driven behind it.
TwoToneTake take_alone(const Evidence& evidence) {
  TwoToneTake t;
  t.settings = ladder_settings_from_json(evidence.settings);
  t.convention = evidence.convention == kReOneTone ? kReOneTone : kRePep;
  t.limit = evidence.limit;
  for (const EvidenceStep& step : evidence.steps) {
    StepTake take = take_step(step, evidence.drive, t.settings);
    t.labels.push_back(step.label);
    t.outputs.push_back(std::move(take.output));
    t.analyses.push_back(take.analysis
                             ? std::make_shared<const TwoToneAnalysis>(std::move(*take.analysis))
                             : nullptr);
  }
  return t;
}

std::vector<AmplifierStep> driven_steps(const TwoToneTake& t) {
  std::vector<AmplifierStep> steps;
  for (std::size_t i = 0; i < t.labels.size(); ++i) {
    const auto drive = drive_of_label(t.labels[i]);
    if (drive && t.outputs[i] && t.analyses[i] && !t.analyses[i]->products.empty())
      steps.push_back({*drive, t.outputs[i]->value, t.analyses[i].get()});
  }
  return steps;
}

void add_driven(const DrivenDevice& driven, TwoToneTake& t) {
  if (driven.alone == nullptr) return;
  const TwoToneTake amplifier = take_alone(*driven.alone);
  const TwoToneTake both = driven.both != nullptr ? take_alone(*driven.both) : TwoToneTake{};
  t.amplifier = driven.name;
  t.driven = predict_driven(t.steps(), driven_steps(amplifier), driven_steps(both),
                            t.limit ? t.limit->convention : std::string(kRePep),
                            t.limit ? std::optional(t.limit->value) : std::nullopt);
}

}  // namespace

std::optional<RecorderLoad> TwoToneRecord::load() const {
  if (analysis.capture.frames == 0 || analysis.window == kAnalyserWindow) return std::nullopt;
  return RecorderLoad{analysis.peak_dbfs, analysis.clipped_samples};
}

std::vector<LadderStep> TwoToneTake::steps() const {
  std::vector<LadderStep> list;
  for (std::size_t i = 0; i < labels.size(); ++i)
    list.push_back({labels[i], outputs[i], analyses[i].get()});
  return list;
}

std::optional<std::size_t> TwoToneTake::headline_step() const {
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

std::optional<Limit> TwoToneTake::shown_limit() const {
  if (!limit) return std::nullopt;
  return in_convention(*limit, convention, pep_over_one_tone(1.0).value);
}

TwoToneTake take_two_tone(const Evidence& evidence) {
  TwoToneTake t = take_alone(evidence);
  t.ladder = evaluate_ladder(t.steps(), t.limit);
  t.doubts = doubt_readings(typed_steps(evidence));
  if (evidence.driven) add_driven(*evidence.driven, t);
  t.advice =
      advise_ladder(ladder_traces(t.steps(), t.limit ? t.limit->convention : std::string(kRePep)),
                    t.limit, t.settings.ceiling_dbm, t.driven, t.amplifier);
  return t;
}

std::vector<Remark> remarks_of(const TwoToneTake& t) {
  std::vector<Remark> remarks = ladder_remarks(t.ladder.remarks, t.advice);
  for (const ReadingDoubt& d : t.doubts)
    remarks.push_back({"doubt", Severity::caution, t.labels[d.step] + ": " + d.text, ""});
  return remarks;
}

std::optional<double> center_of(const TwoToneAnalysis& a, const std::optional<Drive>& drive) {
  if (a.capture.center_hz) return a.capture.center_hz;
  if (drive && drive->frequency_hz > 0.0) return drive->frequency_hz - a.carrier_hz;
  return std::nullopt;
}

}  // namespace heron
