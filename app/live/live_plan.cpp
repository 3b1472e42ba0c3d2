#include "app/live/live_plan.h"

#include <algorithm>
#include <cctype>
#include <cmath>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/place_name.h"
#include "core/quantity/parse_quantity.h"
#include "store/clock.h"

namespace heron {
namespace {

constexpr double kNarrowRateHz = 48000.0;
constexpr double kNarrowLengthS = 4.0;
/// Aside of the line, so that the sampler's own centre does not stand on it.
constexpr double kAsideHz = 31e3;
constexpr double kOverPlanDb = 0.5;
constexpr double kSweepRbwHz = 10e3;  // reference bandwidth below 30 MHz (ITU-R SM.329)
constexpr std::size_t kSweepPoints = 20001;
constexpr double kShortLengthS = 0.2;
constexpr double kFirstDriveDbm = -42.0;
/// Nobody knows yet where full output lies; the hook-up has to stand what is allowed.
constexpr double kOverFullOutputDb = 1.0;

/// A step's name as an output: "30 W"; nullopt if it is none.
std::optional<double> output_of_name(const Step& step) {
  try {
    return parse_quantity(step.label, Quantity::level).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

/// A step's name as the generator's own level: "generator -30 dBm"; nullopt if it is none.
std::optional<double> generator_of_name(const Step& step) {
  static constexpr std::string_view kWord = "generator ";
  std::string label = step.label;
  std::transform(label.begin(), label.end(), label.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  if (!label.starts_with(kWord)) return std::nullopt;
  try {
    return parse_quantity(step.label.substr(kWord.size()), Quantity::level).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

/// What each method takes if nobody wishes otherwise.
TakingNow usual(const TwoToneTest&) {
  return {kNarrowLengthS, kNarrowRateHz, RunPlan().settle_s, 0.0};
}
TakingNow usual(const GeneralTest& t) {
  if (t.method->run == nullptr) return {};
  const RunRecipe recipe = t.method->run(t.evidence);
  return {recipe.length_s, recipe.rate_hz, RunPlan().settle_s, 0.0};
}
TakingNow usual(const std::monostate&) {
  return {};
}

void fill(const TwoToneTest& t, const std::vector<int>& due, LivePlan& plan) {
  if (t.settings.tones_hz) {
    const double carrier = t.settings.carrier_hz;
    plan.run.stimulus.tones_hz = {std::abs(t.settings.tones_hz->first - carrier),
                                  std::abs(t.settings.tones_hz->second - carrier)};
  }
  double most = t.test.drive->pep_dbm;
  for (const int i : due) {
    const Step& step = t.steps[static_cast<std::size_t>(i)];
    RunStep one;
    one.setting = step.label;
    one.generator_dbm = generator_of_name(step);
    if (!one.generator_dbm) one.output_pep_dbm = output_of_name(step);
    if (!one.generator_dbm && !one.output_pep_dbm) {
      plan.refusal = {
          QObject::tr("\u201c%1\u201d is no output that could be set.").arg(qt_text(step.label)),
          QObject::tr("Name steps by their output, such as 10 W, or by the level of the generator, "
                      "such as generator \u221230 dBm")};
      return;
    }
    most = std::max(most, one.output_pep_dbm.value_or(most));
    plan.run.steps.push_back(one);
  }
  plan.run.most_output_dbm = most + kOverPlanDb;
  if (t.ladder_settings.ceiling_dbm)
    plan.run.most_output_dbm =
        std::min(plan.run.most_output_dbm, *t.ladder_settings.ceiling_dbm + kOverPlanDb);
}

/// At each place that its steps are named after, or swept over in one go, all at the planned drive.
void fill_places(const GeneralTest& t, const std::vector<int>& due, RunPlan& run) {
  for (const int i : due) {
    const Step& step = t.steps[static_cast<std::size_t>(i)];
    RunStep one;
    one.setting = step.label;
    one.output_pep_dbm = t.test.drive->pep_dbm;
    if (const auto range = swept_hz(step)) {
      one.sweep = RunSweep{range->first, range->second, kSweepRbwHz, kSweepPoints};
      // Two points in each resolution bandwidth, whatever the span.
      one.sweep->rbw_hz = std::max(
          kSweepRbwHz, 2.0 * (range->second - range->first) / static_cast<double>(kSweepPoints));
    } else {
      one.center_hz =
          named_frequency_hz(step.label).value_or(t.test.drive->frequency_hz) + kAsideHz;
    }
    run.steps.push_back(one);
  }
}

RunStimulus::Kind kind_of(RunRecipe::Stimulus stimulus) {
  switch (stimulus) {
    case RunRecipe::Stimulus::notched_noise:
      return RunStimulus::Kind::notched_noise;
    case RunRecipe::Stimulus::speech_noise:
      return RunStimulus::Kind::speech_noise;
    case RunRecipe::Stimulus::tone:
      break;
  }
  return RunStimulus::Kind::tone;
}

void fill(const GeneralTest& t, const std::vector<int>& due, LivePlan& plan) {
  if (t.method->run == nullptr) {
    plan.refusal = {QObject::tr("This test takes typed readings only."),
                    QObject::tr("Type what the meters show into the grid")};
    return;
  }
  const RunRecipe recipe = t.method->run(t.evidence);
  if (!recipe.refusal.empty()) {
    plan.refusal = {qt_text(recipe.refusal), qt_text(recipe.what_to_do)};
    return;
  }
  plan.run.stimulus.kind = kind_of(recipe.stimulus);
  plan.run.stimulus.band_hz = recipe.band_hz;
  plan.run.stimulus.notch_hz = recipe.notch_hz;
  if (recipe.stimulus == RunRecipe::Stimulus::tone)
    plan.run.stimulus.tones_hz.first = recipe.tone_hz;
  plan.run.most_output_dbm = t.test.drive->pep_dbm + recipe.over_plan_db;
  if (recipe.is_over_places) {
    fill_places(t, due, plan.run);
    return;
  }
  for (const int i : due) {
    const Step& step = t.steps[static_cast<std::size_t>(i)];
    RunStep one;
    one.setting = step.label;
    // Steps over settings are all measured at the planned drive.
    one.output_pep_dbm = output_of_name(step).value_or(t.test.drive->pep_dbm);
    plan.run.most_output_dbm =
        std::max(plan.run.most_output_dbm, *one.output_pep_dbm + recipe.over_plan_db);
    plan.run.steps.push_back(one);
  }
}

void fill(const std::monostate&, const std::vector<int>&, LivePlan&) {}

}  // namespace

std::vector<int> live_due(const LoadedTest& test, int only) {
  std::vector<int> due;
  const PlannedTest* t = planned_of(test);
  if (t == nullptr) return due;
  if (only >= 0) return {only};
  const auto* general = std::get_if<GeneralTest>(&test);
  if (general != nullptr && general->method->run == nullptr) return due;
  for (std::size_t i = 0; i < t->steps.size(); ++i) {
    if (!t->steps[i].capture) due.push_back(static_cast<int>(i));
  }
  const bool is_over_places =
      general != nullptr && general->method->run(general->evidence).is_over_places;
  if (general != nullptr && !is_over_places) {
    // Between steps over settings somebody has to turn a knob: one at a time.
    const bool is_over_settings = std::any_of(due.begin(), due.end(), [&](int i) {
      return !output_of_name(general->steps[static_cast<std::size_t>(i)]);
    });
    if (is_over_settings) due.resize(1);
    return due;
  }
  if (!std::holds_alternative<TwoToneTest>(test)) return due;
  // What is warm by then was asked for last.
  const auto loudness = [&](int i) {
    const Step& step = t->steps[static_cast<std::size_t>(i)];
    const auto generator = generator_of_name(step);
    return generator ? *generator : output_of_name(step).value_or(0.0);
  };
  std::stable_sort(due.begin(), due.end(), [&](int a, int b) { return loudness(a) < loudness(b); });
  return due;
}

RunPlan full_output_plan(const TwoToneTest& t) {
  LivePlan plan = live_plan(LoadedTest(t), {});
  RunPlan run = plan.run;
  run.stimulus.kind = RunStimulus::Kind::tone;
  run.frames = static_cast<std::size_t>(run.rate_hz * kShortLengthS);
  run.most_output_dbm = t.test.drive->pep_dbm + kOverFullOutputDb;
  RunStep first;
  first.setting = "one tone";
  first.generator_dbm = kFirstDriveDbm;
  run.steps = {first};
  run.reads_along = false;  // only the levels count
  return run;
}

TakingNow taking_now(const LoadedTest& test) {
  TakingNow now = std::visit([](const auto& kind) { return usual(kind); }, test);
  if (const PlannedTest* t = planned_of(test)) {
    const TakingSettings wished = taking_settings_from_json(t->test.settings);
    now.length_s = wished.length_s.value_or(now.length_s);
    now.rate_hz = wished.rate_hz.value_or(now.rate_hz);
    now.settle_s = wished.settle_s.value_or(now.settle_s);
    now.most_drive_dbm = wished.most_drive_dbm;
  }
  return now;
}

LivePlan live_plan(const LoadedTest& test, const std::vector<int>& due) {
  LivePlan plan;
  const PlannedTest* t = planned_of(test);
  if (t == nullptr || !t->hookup || !t->test.drive || !t->planned) {
    plan.refusal = {QObject::tr("This test has no hook-up with a planned drive."),
                    QObject::tr("Say in the hook-up editor what is driven, and how hard")};
    return plan;
  }
  plan.run.chain = t->hookup->chain;
  plan.run.center_hz = t->test.drive->frequency_hz;
  const TakingNow taking = taking_now(test);
  plan.run.most_generator_dbm = taking.most_drive_dbm;
  plan.run.settle_s = taking.settle_s;
  plan.run.rate_hz = taking.rate_hz;
  plan.run.frames = static_cast<std::size_t>(
      std::clamp(std::round(taking.length_s * taking.rate_hz), 1.0, kMostTakenFrames));
  for (const int i : due) {
    plan.steps.push_back(t->steps[static_cast<std::size_t>(i)].id);
    plan.labels.push_back(qt_text(t->steps[static_cast<std::size_t>(i)].label));
  }
  std::visit([&](const auto& kind) { fill(kind, due, plan); }, test);
  return plan;
}

}  // namespace heron
