// How a run looks at what comes out and finds the drive for it; the rest of it is in
// ladder_run.cpp.
#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "instrument/ladder_run.h"

namespace heron {
namespace {

constexpr std::size_t kCheckFrames = 16384;
constexpr double kToleranceDb = 0.1;
constexpr double kDriftFactor = 3.0;       // after some tries: what heats up runs away
constexpr double kNoiseToleranceDb = 0.5;  // the peak of noise is another one each time
constexpr int kMostSearches = 12;
constexpr double kSteadyDb = 0.1;
constexpr int kMostLooks = 8;

}  // namespace

bool LadderRun::is_steady_stimulus() const {
  return plan_.stimulus.kind == RunStimulus::Kind::tone ||
         plan_.stimulus.kind == RunStimulus::Kind::carrier ||
         plan_.stimulus.kind == RunStimulus::Kind::two_tone;
}

/// Noise takes longer to show its peak.
std::size_t LadderRun::check_frames() const {
  return is_steady_stimulus() ? kCheckFrames : 4 * kCheckFrames;
}

double LadderRun::settled_pep_dbm(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  const double settle = std::max(plan_.settle_s, with_.generator->profile().settle_s);
  time_.wait(settle, [&](double left) {
    stay_alive(guard, stop);
    check_key_down(index, 0.0);
    show(RunState::Kind::settling, index, left);
  });
  return look(index, guard, stop);
}

double LadderRun::steady_pep_dbm(double first_dbm, std::size_t index, RfGuard& guard,
                                 const std::stop_token& stop) {
  if (!is_steady_stimulus()) return first_dbm;
  double before = first_dbm;
  double now = look(index, guard, stop);
  for (int i = 1; std::abs(now - before) > kSteadyDb; ++i) {
    if (i >= kMostLooks)
      throw step_refused(plan_.steps[index].setting,
                         fmt::format("its output still moves by {} dB between two checks",
                                     number_text(std::abs(now - before), 1)),
                         "Let it warm up, settle for longer, or look for a loose connector");
    before = now;
    now = settled_pep_dbm(index, guard, stop);
  }
  return now;
}

/// The sampler knows how it is set; a hook-up that says something else was drawn for another
/// setting.
void LadderRun::compare_full_scale(TakenStep& taken) const {
  const Part* recorder = recorder_of(plan_.chain);
  if (recorder == nullptr || !recorder->full_scale_dbm ||
      std::abs(*recorder->full_scale_dbm - look_.full_scale_dbm()) < kSteadyDb)
    return;
  taken.cautions.push_back(
      fmt::format("{} reports a full scale of {} dBm, the hook-up states {} dBm: the "
                  "instrument\u2019s value is used",
                  with_.sampler->name(), number_text(look_.full_scale_dbm(), 1, true),
                  number_text(*recorder->full_scale_dbm, 1, true)));
}

double LadderRun::look(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  show(RunState::Kind::checking, index);
  const double pep = look_.shown_dbm(check_frames()) + look_.loss_db(plan_.center_hz);
  stay_alive(guard, stop);
  const double most = plan_.steps[index].most_output_dbm.value_or(plan_.most_output_dbm);
  if (pep > most + 0.2)
    throw step_refused(plan_.steps[index].setting,
                       fmt::format("{} dBm came out, more than the {} dBm allowed",
                                   number_text(pep, 1), number_text(most, 1)),
                       "Turn the power down, or allow more");
  return pep;
}

/// Supply, level, harmonics, and the supply once more: what creeps is seen.
void LadderRun::take_levels(TakenStep& taken, RfGuard& guard, const std::stop_token& stop) {
  const RunLevels levels = *plan_.steps[taken.index].levels;
  const bool is_of_device = !levels.is_bypassed;
  if (is_of_device) along_.read_supply(taken, ReadingRole::before, guard);
  taken.pep_dbm = look(taken.index, guard, stop);
  taken.shown_dbm = taken.pep_dbm - look_.loss_db(plan_.center_hz);
  taken.shown_by = look_.instrument().name();
  if (!is_of_device) return;
  taken.harmonics_dbc = look_.harmonics_dbc(guard, time_.factor());
  if (!taken.harmonics_dbc.empty()) taken.harmonics_by = look_.harmonics_by();
  stay_alive(guard, stop);
  along_.read(taken, generator_dbm_, guard);
}

void LadderRun::take_unkeyed(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  const RunStep& step = plan_.steps[index];
  listen_to(stop);
  show(RunState::Kind::setting, index);
  TakenStep taken;
  taken.index = index;
  if (!step.sweep) {
    look_.set_up();
    compare_full_scale(taken);
    taken.full_scale_dbm = look_.full_scale_dbm();
  }
  stay_alive(guard, stop);
  show(RunState::Kind::taking, index, length_s(step));
  if (step.sweep)
    take_sweep(step, with_.analyser, taken, guard, time_.factor());
  else
    take_samples(plan_, step, *with_.sampler, taken, guard, time_.factor());
  stay_alive(guard, stop);
  hand_over(std::move(taken));
}

/// Quiescent: what the supply gives with RF off.
void LadderRun::take_idle(std::size_t index, RfGuard& guard) {
  TakenStep taken;
  taken.index = index;
  show(RunState::Kind::taking, index);
  const bool is_confirmed = switch_off(guard).empty();
  if (is_confirmed) along_.read_supply(taken, ReadingRole::at, guard);
  guard.rearm();
  demand_off(is_confirmed);
  hand_over(std::move(taken));
}

double LadderRun::find_level(const RunStep& step, std::size_t index, RfGuard& guard,
                             const std::stop_token& stop) {
  double level = generator_dbm_;  // as it was set before it was keyed
  const bool is_noise = !is_steady_stimulus();
  const double tolerance = is_noise ? kNoiseToleranceDb : kToleranceDb;
  double previous_pep = -400.0;
  double previous_level = level;
  for (int i = 0; i < kMostSearches; ++i) {
    if (i > 0) {
      tell_level(*with_.generator, level);
      // The sampler is another line: it may answer before the generator has done what it was told.
      with_.generator->settle();
    }
    generator_dbm_ = level;
    const double pep = settled_pep_dbm(index, guard, stop);
    known_ = DrivePoint{level, pep, 0.0};
    const double missing = *step.output_pep_dbm - pep;
    if (std::abs(missing) <= tolerance * (i < kMostSearches / 2 ? 1.0 : kDriftFactor)) return pep;
    // Full output: it rises by less than 0.1 dB for 1 dB of drive.
    const double driven = level - previous_level;
    if (i > 0 && missing > tolerance && driven > (is_noise ? 2.0 : 0.2) &&
        pep - previous_pep < kFullOutputSlope * driven)
      throw step_refused(step.setting,
                         fmt::format("the output stops rising at {} dBm", number_text(pep, 1)),
                         "Skip this step, or turn the power setting up");
    previous_pep = pep;
    previous_level = level;
    // Upwards in small steps: what drives hard may not follow the law of what drives little.
    const double next = level + std::clamp(missing, -20.0, missing > 6.0 ? 0.7 * missing : missing);
    level = std::min(next, plan_.most_generator_dbm);
    if (level == previous_level && missing > tolerance)
      throw step_refused(
          step.setting,
          fmt::format("at {} dBm of drive, the most that is allowed, {} dBm come out",
                      number_text(level, 1), number_text(pep, 1)),
          "Allow more drive, or skip this step");
  }
  throw step_refused(step.setting,
                     fmt::format("its output does not settle within {:.1f} dB of {} dBm",
                                 tolerance * kDriftFactor, number_text(*step.output_pep_dbm, 1)),
                     "Let the transmitter warm up, or set the drive by hand");
}

}  // namespace heron
