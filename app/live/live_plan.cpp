#include "app/live/live_plan.h"

#include <algorithm>
#include <cctype>
#include <cmath>
#include <map>

#include "app/live/heard_plan.h"
#include "app/live/level_keeper.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/place_name.h"
#include "core/quantity/drive_label.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "store/clock.h"

namespace heron {
namespace {

/// Aside of the line, so that the sampler's own centre does not stand on it.
constexpr double kAsideHz = 31e3;
constexpr double kSweepRbwHz = 10e3;  // reference bandwidth below 30 MHz (ITU-R SM.329)
constexpr std::size_t kSweepPoints = 20001;
constexpr double kPointsPerFilter = 2.0;
constexpr double kShortLengthS = 0.2;
constexpr double kFirstDriveDbm = -42.0;
/// Nobody knows yet where full output lies; the hook-up has to stand what is allowed.
constexpr double kOverFullOutputDb = 1.0;
/// While the device is bypassed its drive is found from below; some of it overshoots.
constexpr double kOverDriveDb = 1.5;

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

/// Behind a comma: "after, 100 kHz"; nullopt where it says none or nothing is swept.
std::optional<double> span_of_step(const RunRecipe& recipe, const Step& step) {
  const auto comma = step.label.find(',');
  if (recipe.span_points == 0 || comma == std::string::npos) return std::nullopt;
  std::string words = step.label.substr(comma + 1);
  if (const auto span = words.find("span"); span != std::string::npos) words.resize(span);
  try {
    return parse_quantity(words, Quantity::frequency).value;
  } catch (const InputError&) {
    return std::nullopt;
  }
}

/// One step for each drive; what is warm by then was asked for last.
void fill_drives(const GeneralTest& t, const std::vector<int>& due, LivePlan& plan) {
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
    plan.run.steps.push_back(one);
  }
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
      return RunStimulus::Kind::tone;
    case RunRecipe::Stimulus::carrier:
      return RunStimulus::Kind::carrier;
    case RunRecipe::Stimulus::two_tones:
    case RunRecipe::Stimulus::nothing:
      break;
  }
  return RunStimulus::Kind::two_tone;
}

/// A part of the run: the same steps with the device bypassed or in line.
struct Pass {
  ReadingRole role;
  bool is_bypassed;
  QString label;
};

/// Drives are read first, with the device bypassed, and once more at the end; or known from the
/// generator.
void fill_levels(const GeneralTest& t, const std::vector<int>& due, const RunRecipe& recipe,
                 LivePlan& plan) {
  const RunRecipe::Levels& levels = *recipe.levels;
  RunPlan& run = plan.run;
  run.is_read_by_meter = is_read_by_meter(t);
  run.harmonics = static_cast<int>(levels.harmonics.size()) + 1;
  run.stimulus.carrier_hz = run.center_hz;
  const bool is_bypassed = recipe.bypasses_device();
  double most_drive = -1e9;
  for (const int i : due)
    most_drive = std::max(
        most_drive, drive_of_label(t.steps[static_cast<std::size_t>(i)].label).value_or(-1e9));
  std::vector<Pass> passes;
  if (is_bypassed) passes.push_back({ReadingRole::before, true, QObject::tr("%1, bypassed")});
  passes.push_back({ReadingRole::at, false, QStringLiteral("%1")});
  if (is_bypassed) passes.push_back({ReadingRole::after, true, QObject::tr("%1, bypassed again")});
  std::vector<int> steps;
  std::vector<ReadingRole> roles;
  std::vector<QString> labels;
  std::map<int, std::size_t> last_of;
  for (const Pass& pass : passes) {
    for (const int i : due) {
      const Step& step = t.steps[static_cast<std::size_t>(i)];
      const auto drive = drive_of_label(step.label);
      if (!drive && pass.role != ReadingRole::at) continue;
      RunStep one;
      one.setting = step.label;
      one.levels = RunLevels{pass.role, pass.is_bypassed, !drive};
      if (pass.is_bypassed) one.most_output_dbm = most_drive + kOverDriveDb;
      if (drive && is_bypassed && pass.role == ReadingRole::before)
        one.output_pep_dbm = *drive - levels.bypass_loss_db;
      else if (drive && is_bypassed)
        one.after_step = last_of.at(i);
      else if (drive)
        one.generator_dbm = *drive - *levels.drive_over_generator_db;
      last_of[i] = run.steps.size();
      run.steps.push_back(one);
      steps.push_back(i);
      roles.push_back(pass.role);
      labels.push_back(pass.label.arg(qt_text(step.label)));
    }
  }
  plan.steps.clear();
  for (const int i : steps) plan.steps.push_back(t.steps[static_cast<std::size_t>(i)].id);
  plan.labels = std::move(labels);
  plan.keeper = std::make_shared<LevelKeeper>(t, levels, std::move(steps), std::move(roles),
                                              run.is_read_by_meter);
}

/// What runs by itself: recorded, or swept over where the step's name says a span.
void fill_unkeyed(const GeneralTest& t, const std::vector<int>& due, const RunRecipe& recipe,
                  RunPlan& run) {
  run.is_keyed = false;
  run.reads_along = false;
  const double carrier_hz = t.test.drive->frequency_hz;
  for (const int i : due) {
    const Step& step = t.steps[static_cast<std::size_t>(i)];
    RunStep one;
    one.setting = step.label;
    if (const auto span_hz = span_of_step(recipe, step)) {
      one.sweep = RunSweep{carrier_hz - *span_hz / 2.0, carrier_hz + *span_hz / 2.0,
                           *span_hz * kPointsPerFilter / static_cast<double>(recipe.span_points),
                           recipe.span_points, recipe.span_averages};
    } else {
      one.center_hz = carrier_hz - recipe.aside_hz;
    }
    run.steps.push_back(one);
  }
}

void fill(const GeneralTest& t, const std::vector<int>& due, bool has_hands, LivePlan& plan) {
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
  RunPlan& run = plan.run;
  run.stimulus.kind = kind_of(recipe.stimulus);
  run.stimulus.band_hz = recipe.band_hz;
  run.stimulus.notch_hz = recipe.notch_hz;
  if (recipe.stimulus == RunRecipe::Stimulus::tone) run.stimulus.tones_hz.first = recipe.tone_hz;
  if (recipe.tones_hz) run.stimulus.tones_hz = *recipe.tones_hz;
  if (recipe.listen) {
    fill_heard(t, due, recipe, has_hands, plan);
    return;
  }
  double most = t.test.drive->pep_dbm;
  if (recipe.stimulus == RunRecipe::Stimulus::nothing) {
    fill_unkeyed(t, due, recipe, run);
    return;
  }
  if (recipe.levels) {
    fill_levels(t, due, recipe, plan);
    run.most_output_dbm = most + recipe.over_plan_db;
    return;
  }
  if (recipe.is_over_places) {
    fill_places(t, due, run);
  } else if (recipe.is_over_drives) {
    fill_drives(t, due, plan);
  } else {
    for (const int i : due) {
      const Step& step = t.steps[static_cast<std::size_t>(i)];
      RunStep one;
      one.setting = step.label;
      // Steps over settings are all measured at the planned drive.
      one.output_pep_dbm = output_of_name(step).value_or(t.test.drive->pep_dbm);
      run.steps.push_back(one);
    }
  }
  for (const RunStep& step : run.steps) most = std::max(most, step.output_pep_dbm.value_or(most));
  run.most_output_dbm = std::min(most, recipe.most_output_dbm.value_or(most)) + recipe.over_plan_db;
}

}  // namespace

RunRecipe recipe_of(const LoadedTest& test) {
  return test && test->method->run != nullptr ? test->method->run(test->evidence) : RunRecipe();
}

bool is_listening(const LoadedTest& test) {
  return recipe_of(test).listen.has_value();
}

bool is_read_off(const LoadedTest& test) {
  const RunRecipe recipe = recipe_of(test);
  return recipe.listen && recipe.listen->reads_indicator();
}

bool is_read_by_meter(const LoadedTest& test) {
  if (!test || !test->hookup) return true;
  const Part* end = recorder_of(test->hookup->chain);
  return end == nullptr || !end->full_scale_dbm;
}

std::vector<Role> roles_needed(const LoadedTest& test, int only) {
  const RunRecipe recipe = recipe_of(test);
  if (recipe.stimulus == RunRecipe::Stimulus::nothing) {
    const std::vector<int> due = live_due(test, only);
    const bool is_swept =
        !due.empty() && due.front() < static_cast<int>(test->steps.size()) &&
        span_of_step(recipe, test->steps[static_cast<std::size_t>(due.front())]).has_value();
    return {is_swept ? Role::spectrum_analyser : Role::sampler};
  }
  if (recipe.listen && recipe.listen->reads_indicator()) return {Role::generator};
  if (recipe.listen && recipe.listen->at_if)
    return {Role::generator,
            recipe.listen->at_if->if_hz ? Role::spectrum_analyser : Role::power_meter};
  if (recipe.listen) return {Role::generator, Role::voltmeter};
  if (recipe_of(test).levels && is_read_by_meter(test)) return {Role::generator, Role::power_meter};
  return {Role::generator, Role::sampler};
}

std::vector<int> live_due(const LoadedTest& test, int only) {
  std::vector<int> due;
  if (!test) return due;
  if (only >= 0) return {only};
  if (test->method->run == nullptr) return due;
  const RunRecipe recipe = recipe_of(test);
  const auto step = [&](int i) -> const Step& { return test->steps[static_cast<std::size_t>(i)]; };
  for (int i = 0; i < static_cast<int>(test->steps.size()); ++i) {
    const bool is_taken =
        recipe.listen ? find_reading(step(i).readings, recipe.listen->on) != nullptr ||
                            step(i).capture.has_value()
        : recipe.levels ? find_reading(step(i).readings, recipe.levels->output) != nullptr ||
                              (!drive_of_label(step(i).label) && !step(i).readings.empty())
                        : step(i).capture.has_value();
    const bool is_noise = recipe.listen && recipe.listen->places[static_cast<std::size_t>(i)] &&
                          recipe.listen->places[static_cast<std::size_t>(i)]->is_noise;
    if (!is_taken && !is_noise) due.push_back(i);
  }
  // Between states somebody has to change something: one at a time.
  if (recipe.stimulus == RunRecipe::Stimulus::nothing) {
    if (due.size() > 1) due.resize(1);
    return due;
  }
  if (recipe.listen) return due;
  if (recipe.levels) {
    std::stable_sort(due.begin(), due.end(), [&](int a, int b) {
      return drive_of_label(step(a).label).value_or(-1e9) <
             drive_of_label(step(b).label).value_or(-1e9);
    });
  } else if (recipe.is_over_drives) {
    const auto loudness = [&](int i) {
      const auto generator = generator_of_name(step(i));
      return generator ? *generator : output_of_name(step(i)).value_or(0.0);
    };
    std::stable_sort(due.begin(), due.end(),
                     [&](int a, int b) { return loudness(a) < loudness(b); });
  } else if (!recipe.is_over_places) {
    // Between steps over settings somebody has to turn a knob: one at a time.
    const bool is_over_settings = std::any_of(
        due.begin(), due.end(), [&](int i) { return !output_of_name(step(i)).has_value(); });
    if (is_over_settings) due.resize(1);
  }
  return due;
}

RunPlan full_output_plan(const LoadedTest& test) {
  RunPlan run = live_plan(test, {}).run;
  run.stimulus.kind = RunStimulus::Kind::tone;
  run.frames = static_cast<std::size_t>(run.rate_hz * kShortLengthS);
  if (test && test->test.drive) run.most_output_dbm = test->test.drive->pep_dbm + kOverFullOutputDb;
  RunStep first;
  first.setting = "one tone";
  first.generator_dbm = kFirstDriveDbm;
  run.steps = {first};
  run.reads_along = false;  // only the levels count
  return run;
}

TakingNow taking_now(const LoadedTest& test) {
  if (!test) return {};
  TakingNow now;
  if (test->method->run != nullptr) {
    // What the method takes if nobody wishes otherwise.
    const RunRecipe recipe = recipe_of(test);
    now = {recipe.length_s, recipe.rate_hz, RunPlan().settle_s, 0.0};
  }
  const TakingSettings wished = taking_settings_from_json(test->test.settings);
  now.length_s = wished.length_s.value_or(now.length_s);
  now.rate_hz = wished.rate_hz.value_or(now.rate_hz);
  now.settle_s = wished.settle_s.value_or(now.settle_s);
  now.most_drive_dbm = wished.most_drive_dbm;
  return now;
}

LivePlan live_plan(const LoadedTest& test, const std::vector<int>& due, bool has_hands) {
  LivePlan plan;
  const GeneralTest* t = test ? &*test : nullptr;
  const bool is_planned = t != nullptr && t->hookup && t->test.drive && t->planned;
  if (!is_planned && !is_listening(test)) {
    plan.refusal = {QObject::tr("This test has no hook-up with a planned drive."),
                    QObject::tr("Say in the hook-up editor what is driven, and how hard")};
    return plan;
  }
  if (is_planned) {
    plan.run.chain = t->hookup->chain;
    plan.run.center_hz = t->test.drive->frequency_hz;
  }
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
  fill(*t, due, has_hands, plan);
  return plan;
}

}  // namespace heron
