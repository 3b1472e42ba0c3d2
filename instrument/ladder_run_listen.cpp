// How a run listens to a receiver: the generator is the source, a voltmeter reads the audio.
#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

#include "core/method/measure/audio_ratio.h"
#include "core/quantity/format.h"
#include "instrument/ladder_run.h"

namespace heron {
namespace {

constexpr int kMostTries = 12;
constexpr int kLooks = 2;           // of each try
constexpr double kHalfDb = 6.0206;  // half of the voltage
constexpr double kHeardDb = 1.0;    // less than that may be the noise itself
constexpr double kUpDb = 20.0;      // where nothing is heard yet
constexpr double kLeastDbm = -150.0;
constexpr double kScanHz = 3000.0;
constexpr double kScanStepHz = 500.0;
constexpr double kUnitDb = 3.0;  // of level; less than S units have, so that it comes to rest
constexpr double kShownUnits = 0.02;
constexpr int kMostMoves = 60;
constexpr double kLookS = 0.05;       // for who moves the level
constexpr double kMostIdleS = 300.0;  // RF does not stay on for nobody

double rise_db(const std::vector<double>& on, const std::vector<double>& off) {
  return audio_level(on, false).db - audio_level(off, false).db;
}

}  // namespace

std::vector<double> LadderRun::hear(const RunListen& how, int readings, std::size_t index,
                                    RfGuard& guard, const std::stop_token& stop) {
  std::vector<double> volts;
  for (int i = 0; i < readings; ++i) {
    time_.wait(how.apart_s, [&](double) { stay_alive(guard, stop); });
    const double v = with_.voltmeter->ask_number(Role::voltmeter, "read");
    if (!(v > 0.0))
      throw step_refused(plan_.steps[index].setting,
                         fmt::format("{} shows {} V", with_.voltmeter->name(), number_text(v, 3)),
                         "Turn the volume up, and look whether audio reaches it");
    volts.push_back(v);
  }
  return volts;
}

void LadderRun::scan(HeardStep& heard, std::size_t index, RfGuard& guard,
                     const std::stop_token& stop) {
  if (!events_.tune) return;
  for (double beside = -kScanHz; beside <= kScanHz + 1.0; beside += kScanStepHz) {
    events_.tune(index, beside);
    const auto volts = hear(*plan_.steps[index].listen, kLooks, index, guard, stop);
    heard.beside.emplace_back(beside, std::pow(10.0, audio_level(volts, false).db / 20.0));
  }
  events_.tune(index, 0.0);
}

void LadderRun::set_level(double dbm) {
  generator_dbm_ = dbm;
  tell_level(*with_.generator, dbm);
  with_.generator->settle();
}

void LadderRun::set_heard_level(double dbm, std::size_t index, RfGuard& guard,
                                const std::stop_token& stop) {
  set_level(dbm);
  settle_heard(index, guard, stop);
}

void LadderRun::settle_heard(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  time_.wait(plan_.settle_s, [&](double left) {
    stay_alive(guard, stop);
    show(RunState::Kind::settling, index, left);
  });
}

double LadderRun::key_carrier() {
  rf_ = RfState::on;
  const double keyed_at_s = time_.now_s();
  with_.generator->tell(Role::generator, "output_on");
  with_.generator->settle();
  return keyed_at_s;
}

void LadderRun::end_carrier(TakenStep taken, double keyed_at_s, RfGuard& guard) {
  const bool is_confirmed = switch_off(guard).empty();
  taken.keyed_s = time_.now_s() - keyed_at_s;
  taken.driven_by = with_.generator->name();
  hand_over(std::move(taken));
  demand_off(is_confirmed);
}

void LadderRun::find_heard_level(std::size_t index, HeardStep& heard, double most, RfGuard& guard,
                                 const std::stop_token& stop) {
  const RunListen& how = *plan_.steps[index].listen;
  const double wanted = *sn_of_sn_n(0.5 * (how.lowest_db + how.highest_db));
  for (int i = 1;; ++i) {
    show(RunState::Kind::checking, index);
    // A carrier quiets or stirs the noise: both at the same level.
    if (how.am) {
      modulate(how, false);
      heard.off = hear(how, kLooks, index, guard, stop);
      modulate(how, true);
    }
    const double rise = rise_db(hear(how, kLooks, index, guard, stop), heard.off);
    if (rise >= how.lowest_db && rise <= how.highest_db) return;
    const bool is_heard = rise >= kHeardDb;
    heard.is_deaf = !is_heard && generator_dbm_ >= most;
    if (heard.is_deaf) return;
    const auto sn = sn_of_sn_n(rise);
    const double missing = is_heard && sn ? wanted - *sn : kUpDb;
    const double next = std::clamp(generator_dbm_ + missing, kLeastDbm, most);
    if (i == kMostTries || next == generator_dbm_)
      throw step_refused(
          plan_.steps[index].setting,
          fmt::format("(S+N)/N stays at {} dB, whatever the level", number_text(rise, 1)),
          "Switch the AGC off, and look for a birdie or another station there");
    set_heard_level(next, index, guard, stop);
  }
}

void LadderRun::modulate(const RunListen& how, bool on) {
  ScpiSession& generator = *with_.generator;
  if (on)
    generator.tell(Role::generator, "set_modulation",
                   {{"depth", how.am->first}, {"hz", how.am->second}});
  else
    generator.tell(Role::generator, "modulation_off");
  generator.settle();
}

void LadderRun::set_carrier(const RunListen& how, std::size_t index, double dbm, RfGuard& guard,
                            const std::stop_token& stop) {
  show(RunState::Kind::setting, index);
  // Only a source that says it is off leaves a receiver alone.
  demand_off(switch_off(guard).empty());
  listen_to(stop);
  RunStimulus carrier;
  carrier.kind = RunStimulus::Kind::carrier;
  carrier.carrier_hz = how.frequency_hz;
  tell_stimulus(*with_.generator, carrier);
  // What the last one who used it left would be heard.
  if (with_.generator->can(Role::generator, "modulation_off"))
    with_.generator->tell(Role::generator, "modulation_off");
  set_level(dbm);
}

void LadderRun::take_heard(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  const RunStep step = plan_.steps[index];
  const RunListen& how = *step.listen;
  ScpiSession& generator = *with_.generator;
  const double most = std::min(how.most_dbm, plan_.most_generator_dbm);
  if (how.am && !(generator.can(Role::generator, "set_modulation") &&
                  generator.can(Role::generator, "modulation_off")))
    throw step_refused(step.setting, generator.name() + " has no command for AM in its profile",
                       "Add set_modulation and modulation_off to it, or type the readings");
  set_carrier(how, index, std::clamp(how.first_dbm, kLeastDbm, most), guard, stop);
  TakenStep taken;
  taken.index = index;
  taken.heard.emplace();
  HeardStep& heard = *taken.heard;
  settle_heard(index, guard, stop);
  show(RunState::Kind::taking, index, length_s(step));
  scan(heard, index, guard, stop);
  if (!how.am) heard.off = hear(how, how.readings, index, guard, stop);

  const double keyed_at_s = key_carrier();
  find_heard_level(index, heard, most, guard, stop);
  show(RunState::Kind::taking, index, length_s(step));
  taken.generator_dbm = generator_dbm_;
  heard.on = hear(how, how.readings, index, guard, stop);
  if (how.am) {
    modulate(how, false);
    heard.off = hear(how, how.readings, index, guard, stop);
    modulate(how, true);
  }
  if (!heard.is_deaf) {
    set_heard_level(taken.generator_dbm - kHalfDb, index, guard, stop);
    show(RunState::Kind::taking, index, length_s(step));
    heard.half = hear(how, how.readings, index, guard, stop);
  }
  stay_alive(guard, stop);
  if (how.am) modulate(how, false);
  taken.shown_by = with_.voltmeter->name();
  end_carrier(std::move(taken), keyed_at_s, guard);
}

double LadderRun::next_move_db(const RunListen& how, std::size_t index, RfGuard& guard,
                               const std::stop_token& stop) {
  if (events_.shown) {
    stay_alive(guard, stop);
    const double missing = how.shown - events_.shown();
    return std::abs(missing) < kShownUnits ? 0.0 : std::clamp(kUnitDb * missing, -kUpDb, kUpDb);
  }
  RunState now;
  now.kind = RunState::Kind::moving;
  now.step = index;
  now.what = how.shows;
  now.level_dbm = generator_dbm_;
  now.rf = rf_;
  if (events_.state) events_.state(now);
  for (double waited_s = 0.0; waited_s < kMostIdleS; waited_s += kLookS) {
    time_.wait(kLookS, [&](double) { stay_alive(guard, stop); });
    const std::scoped_lock lock(mutex_);
    if (std::exchange(is_there_, false)) return 0.0;
    if (moved_db_ != 0.0) return std::exchange(moved_db_, 0.0);
  }
  throw step_refused(plan_.steps[index].setting, "nobody moved the level for five minutes",
                     "Go on, and say when it shows " + how.shows);
}

void LadderRun::take_shown(std::size_t index, RfGuard& guard, const std::stop_token& stop) {
  const RunStep step = plan_.steps[index];
  const RunListen& how = *step.listen;
  const double most = std::min(how.most_dbm, plan_.most_generator_dbm);
  set_carrier(how, index, std::clamp(how.first_dbm, kLeastDbm, most), guard, stop);
  if (events_.tune) events_.tune(index, 0.0);
  {
    const std::scoped_lock lock(mutex_);
    moved_db_ = 0.0;
    is_there_ = false;
  }
  TakenStep taken;
  taken.index = index;
  taken.heard.emplace();
  const double keyed_at_s = key_carrier();
  for (int moves = 0;;) {
    const double by = next_move_db(how, index, guard, stop);
    if (by == 0.0) break;
    const double next = std::clamp(generator_dbm_ + by, kLeastDbm, most);
    if (events_.shown && (next == generator_dbm_ || ++moves == kMostMoves))
      throw step_refused(
          step.setting,
          fmt::format("it does not show {} at {} dBm", how.shows, number_text(next, 1)),
          "Skip this step, or allow more level");
    // Who looks sees for himself when it has settled.
    if (events_.shown)
      set_heard_level(next, index, guard, stop);
    else
      set_level(next);
  }
  taken.generator_dbm = generator_dbm_;
  end_carrier(std::move(taken), keyed_at_s, guard);
}

void LadderRun::move_level(std::size_t step, double db) {
  const std::scoped_lock lock(mutex_);
  if (step == at_) moved_db_ += db;
}

void LadderRun::take_level(std::size_t step) {
  const std::scoped_lock lock(mutex_);
  if (step == at_) is_there_ = true;
}

}  // namespace heron
