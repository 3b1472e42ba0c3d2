#include "instrument/ladder_run.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>

#include "core/progress.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "instrument/take_evidence.h"

namespace heron {
namespace {

constexpr double kLevelsS = 1.0;  ///< some instruments are asked once or twice

/// Somebody asked to pause: the step begins anew afterwards.
struct PauseAsked {};

}  // namespace

LadderRun::LadderRun(RunPlan plan, RunInstruments instruments, RunEvents events, BenchTime time)
    : plan_(std::move(plan)), with_(instruments), events_(std::move(events)), time_(time) {
  for (std::size_t i = 0; i < plan_.steps.size(); ++i) due_.push_back(i);
}

void LadderRun::pause() {
  const std::scoped_lock lock(mutex_);
  wants_pause_ = true;
  changed_.notify_all();
}

void LadderRun::resume() {
  const std::scoped_lock lock(mutex_);
  wants_pause_ = false;
  changed_.notify_all();
}

void LadderRun::repeat(std::size_t step) {
  const std::scoped_lock lock(mutex_);
  if (step < plan_.steps.size()) due_.push_back(step);
}

void LadderRun::append(const RunStep& step) {
  const std::scoped_lock lock(mutex_);
  due_.push_back(plan_.steps.size());
  plan_.steps.push_back(step);
}

void LadderRun::skip() {
  const std::scoped_lock lock(mutex_);
  leave(at_);
  wants_pause_ = false;
  changed_.notify_all();
}

void LadderRun::leave(std::size_t step) {
  if (!due_.empty() && due_.front() == step) due_.pop_front();
}

void LadderRun::hand_over(TakenStep taken) {
  const std::size_t index = taken.index;
  events_.taken(std::move(taken));
  const std::scoped_lock lock(mutex_);
  leave(index);
}

void LadderRun::demand_off(bool is_confirmed) const {
  if (!is_confirmed)
    throw InstrumentError(InstrumentFault::lost, with_.generator->name(), "",
                          "it does not confirm that it is off", "Switch it off by hand");
}

double LadderRun::first_level_dbm(const RunStep& step) const {
  if (step.after_step) return levels_.at(*step.after_step);
  if (step.generator_dbm) return *step.generator_dbm;
  if (!known_) return plan_.start_generator_dbm;
  // Never harder than what gave as much before.
  return known_->drive_dbm + std::min(0.0, *step.output_pep_dbm - known_->output_dbm);
}

void LadderRun::drop_rf() {
  const std::scoped_lock lock(mutex_);
  wants_pause_ = true;
  if (guard_ != nullptr) guard_->drop_now();
  changed_.notify_all();
}

void LadderRun::show(RunState::Kind kind, std::size_t step, double seconds_left,
                     const std::string& what) {
  if (!events_.state) return;
  RunState s;
  s.kind = kind;
  s.step = step;
  s.seconds_left = seconds_left;
  s.what = what;
  s.rf = rf_;
  events_.state(s);
}

void LadderRun::stay_alive(RfGuard& guard, const std::stop_token& stop) {
  if (stop.stop_requested()) throw Cancelled();
  {
    const std::scoped_lock lock(mutex_);
    if (wants_pause_) throw PauseAsked();
  }
  guard.feed();
}

void LadderRun::check_key_down(std::size_t index, double needed_s) const {
  // The wall clock of a bench in fast time tells how long it was computed, not keyed.
  if (time_.factor() > 1.0 || !clock_.is_keyed()) return;
  const KeyDownReading reading = clock_.read(time_.now_s());
  if (reading.left_s && *reading.left_s < needed_s)
    throw step_refused(plan_.steps[index].setting,
                       reading.binding + (needed_s > 0.0 ? " would be too hot before it is measured"
                                                         : " has reached its key-down time"),
                       "Go on: it rests first");
}

void LadderRun::listen_to(const std::stop_token& stop) {
  for (ScpiSession* s : {with_.generator, with_.sampler, with_.power_meter, with_.supply,
                         with_.thermometer, with_.analyser, with_.counter, with_.voltmeter}) {
    if (s != nullptr) s->set_stop(stop);
  }
}

bool LadderRun::wait_for_resume(const std::stop_token& stop) {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, stop, [this] { return !wants_pause_; });
  return !stop.stop_requested();
}

double LadderRun::rest(std::size_t index, const std::stop_token& stop) {
  if (plan_.chain.parts.empty()) return 0.0;
  const RunStep& step = plan_.steps[index];
  // As long as it will be keyed, and at the level that it will have or may at most.
  Drive drive;
  drive.pep_dbm =
      step.output_pep_dbm.value_or(step.most_output_dbm.value_or(plan_.most_output_dbm));
  drive.is_two_tone = plan_.stimulus.kind == RunStimulus::Kind::two_tone;
  drive.frequency_hz = plan_.center_hz;
  drive.key_down_s = length_s(step) + 4.0 * plan_.settle_s;
  const ChainResult chain = evaluate_chain(plan_.chain, drive);
  if (!chain.is_safe)
    throw step_refused(step.setting,
                       fmt::format("{} is not rated for {} dBm for {:.0f} s",
                                   chain.binding.empty() ? "the hook-up" : chain.binding,
                                   number_text(drive.pep_dbm, 1), *drive.key_down_s),
                       "Reduce the power, or put more attenuation before it");
  clock_.set_chain(plan_.chain, drive, time_.now_s());
  const KeyDownReading reading = clock_.read(time_.now_s());
  if (reading.rest_s <= 0.0) return 0.0;
  time_.wait(reading.rest_s, [&](double left) {
    if (stop.stop_requested()) throw Cancelled();
    show(RunState::Kind::resting, index, left,
         fmt::format("{} cools down", reading.binding.empty() ? "the hook-up" : reading.binding));
    const std::scoped_lock lock(mutex_);
    if (wants_pause_) throw PauseAsked();
  });
  return reading.rest_s;
}

double LadderRun::length_s(const RunStep& step) const {
  if (step.levels) return kLevelsS + look_.harmonics_s();
  if (step.listen) return step.listen->readings * (step.listen->apart_s + kLevelsS);
  return step.sweep ? step.sweep->length_s() : static_cast<double>(plan_.frames) / plan_.rate_hz;
}

std::vector<std::string> LadderRun::switch_off(RfGuard& guard) {
  std::vector<std::string> unconfirmed = guard.off();
  rf_ = unconfirmed.empty() ? RfState::confirmed_off : RfState::unknown;
  clock_.unkey(time_.now_s());
  return unconfirmed;
}

void LadderRun::take(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  const RunStep step = plan_.steps[index];
  if (!plan_.is_keyed) {
    take_unkeyed(index, guard, stop);
    return;
  }
  ScpiSession& generator = *with_.generator;
  // Switching off has made the generator deaf to a stop.
  listen_to(stop);
  if (step.levels && step.levels->is_idle) {
    take_idle(index, guard);
    return;
  }
  if (step.listen) {
    if (step.listen->at_if)
      take_at_if(index, guard, stop);
    else if (step.listen->shows.empty())
      take_heard(index, guard, stop);
    else
      take_shown(index, guard, stop);
    return;
  }
  const double rested_s = rest(index, stop);

  show(RunState::Kind::setting, index);
  look_.set_up();
  tell_stimulus(generator, plan_.stimulus);
  const double first = first_level_dbm(step);
  if (first > plan_.most_generator_dbm)
    throw step_refused(step.setting,
                       fmt::format("it needs {} dBm of drive, at most {} dBm are allowed",
                                   number_text(first, 1), number_text(plan_.most_generator_dbm, 1)),
                       "Allow more drive, or skip this step");
  TakenStep taken;
  taken.index = index;
  along_.prepare(taken);
  generator_dbm_ = first;
  tell_level(generator, first);
  generator.settle();
  stay_alive(guard, stop);
  rf_ = RfState::on;
  const double keyed_at_s = time_.now_s();
  clock_.key(keyed_at_s);
  generator.tell(Role::generator, "output_on");
  generator.settle();

  const double found = step.output_pep_dbm && !step.after_step
                           ? find_level(step, index, guard, stop)
                           : settled_pep_dbm(index, guard, stop);
  taken.pep_dbm = steady_pep_dbm(found, index, guard, stop);
  check_key_down(index, length_s(step) + along_.longest_s());
  show(RunState::Kind::taking, index, length_s(step));
  if (step.levels) {
    take_levels(taken, guard, stop);
  } else {
    compare_full_scale(taken);
    if (step.sweep)
      take_sweep(step, with_.analyser, taken, guard, time_.factor());
    else
      take_samples(plan_, step, *with_.sampler, taken, guard, time_.factor());
    along_.read(taken, generator_dbm_, guard);
  }
  stay_alive(guard, stop);
  const bool is_confirmed = switch_off(guard).empty();

  taken.rested_s = rested_s;
  taken.keyed_s = time_.now_s() - keyed_at_s;
  taken.generator_dbm = generator_dbm_;
  taken.driven_by = generator.name();
  taken.full_scale_dbm = look_.full_scale_dbm();
  levels_[index] = generator_dbm_;
  hand_over(std::move(taken));
  demand_off(is_confirmed);
}

bool LadderRun::needs_hand(std::size_t index) const {
  return !plan_.steps[index].prompt.empty() && ready_for_ != index;
}

bool LadderRun::needs_switch(const RunStep& step) const {
  return step.levels && !step.levels->is_idle && step.levels->is_bypassed != is_bypassed_;
}

std::optional<std::size_t> LadderRun::next() {
  while (true) {
    std::size_t index = 0;
    RunStep step;
    {
      const std::scoped_lock lock(mutex_);
      if (due_.empty()) return std::nullopt;
      index = at_ = due_.front();
      step = plan_.steps[index];
    }
    const bool is_orphan = step.after_step && !levels_.contains(*step.after_step);
    std::string why;
    try {
      if (!is_orphan && events_.objection) why = events_.objection(index);
    } catch (const std::exception&) {
      why = "whether it may be keyed cannot be told";  // then it may not
    }
    if (!is_orphan && why.empty()) return index;
    if (ended_by_.empty() && !why.empty()) ended_by_ = step.setting + ": " + why;
    const std::scoped_lock lock(mutex_);
    leave(index);
  }
}

bool LadderRun::halt(RunState halted, RfGuard& guard, const std::stop_token& stop) {
  // RF first, then words. Nothing goes on until every source has confirmed that it is off.
  bool goes_on = true;
  do {
    halted.unconfirmed = switch_off(guard);
    halted.rf = rf_;
    {
      const std::scoped_lock lock(mutex_);
      wants_pause_ = true;
    }
    if (events_.state) events_.state(halted);
    goes_on = wait_for_resume(stop);
  } while (goes_on && !halted.unconfirmed.empty() && !guard.off().empty());
  if (!goes_on) return false;
  along_.forgive();  // somebody may have mended it
  guard.rearm();
  return true;
}

bool LadderRun::run(const std::stop_token& stop) {
  // Taking is the longest that it is silent.
  double longest_s = 0.0;
  double timeout_s = 0.0;
  for (const RunStep& step : plan_.steps) longest_s = std::max(longest_s, length_s(step));
  for (const ScpiSession* s : {with_.sampler, with_.power_meter, with_.analyser, with_.voltmeter})
    if (s != nullptr) timeout_s = std::max(timeout_s, s->profile().timeout_s);
  std::vector<ScpiSession*> sources;
  if (with_.generator != nullptr) sources.push_back(with_.generator);
  RfGuard guard(sources, std::max(plan_.watchdog_s, longest_s / time_.factor() + timeout_s + 5.0));
  {
    const std::scoped_lock lock(mutex_);
    guard_ = &guard;
  }
  RunState end;
  end.kind = RunState::Kind::done;
  while (const auto index = next()) {
    RunState halted;
    halted.step = *index;
    halted.kind = RunState::Kind::paused;
    const RunStep step = plan_.steps[*index];
    if (needs_switch(step) || needs_hand(*index)) {
      halted.kind = RunState::Kind::switching;
      halted.is_asked = true;
      halted.to_bypass = step.levels && step.levels->is_bypassed;
      halted.prompt = step.prompt;
      if (!halt(halted, guard, stop)) {
        end.kind = RunState::Kind::stopped;
        break;
      }
      const std::scoped_lock lock(mutex_);
      // Who skipped a step has not switched for it.
      if (due_.empty() || due_.front() != *index) continue;
      is_bypassed_ = halted.to_bypass;
      ready_for_ = index;
      known_.reset();  // the drive of the other one says nothing
      continue;
    }
    try {
      if (events_.tune) events_.tune(*index, 0.0);
      take(*index, guard, stop);
      continue;
    } catch (const PauseAsked&) {
      halted.is_asked = true;
    } catch (const Cancelled&) {
      end.kind = RunState::Kind::stopped;
      break;
    } catch (const InstrumentError& error) {
      halted.instrument = error.subject;
      halted.what = error.what();
    } catch (const InputError& error) {
      halted.what = error.what();
    } catch (const std::exception&) {
      halted.what = "the run met something unexpected";
    } catch (...) {
      halted.what = "it failed without saying why";
    }
    if (!halt(halted, guard, stop)) {
      end.kind = RunState::Kind::stopped;
      break;
    }
  }
  end.what = end.kind == RunState::Kind::stopped ? "stopped" : ended_by_;
  end.is_bypassed = is_bypassed_;
  end.unconfirmed = switch_off(guard);
  end.rf = rf_;
  {
    const std::scoped_lock lock(mutex_);
    guard_ = nullptr;
  }
  if (events_.state) events_.state(end);
  return end.kind == RunState::Kind::done;
}

}  // namespace heron
