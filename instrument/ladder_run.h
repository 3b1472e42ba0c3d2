#pragma once

#include <condition_variable>
#include <deque>
#include <map>
#include <mutex>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/chain/key_down_clock.h"
#include "core/method/reference_level.h"
#include "instrument/bench_time.h"
#include "instrument/level_look.h"
#include "instrument/read_along.h"
#include "instrument/rf_guard.h"
#include "instrument/run_plan.h"

namespace heron {

/// Takes the steps of a ladder one after the other. RF is on only while a step settles and is
/// taken. An instrument that fails makes it pause with RF off; `resume` takes the step again, and
/// no step that was taken is lost. Where the device has to be bypassed or put back it waits with RF
/// off until `resume`. `run` belongs to the thread of the sessions; the other calls may
/// come from any.
class LadderRun {
 public:
  LadderRun(RunPlan plan, RunInstruments instruments, RunEvents events,
            BenchTime time = BenchTime());

  /// Until all steps are taken (true) or it was stopped (false). Never throws: what goes wrong is a
  /// state. RF is off when it returns.
  bool run(const std::stop_token& stop);

  void pause();
  void resume();
  /// Takes one step once more, after those that are due.
  void repeat(std::size_t step);
  /// One more step at the end; only from `taken`, in the run's own thread.
  void append(const RunStep& step);
  /// Leaves the step out that it stands at, and goes on.
  void skip();
  /// While the level is moved until the receiver shows what that step says: by so many dB, or it is
  /// there. Of another step than it stands at they mean nothing: a key pressed twice takes one.
  void move_level(std::size_t step, double db);
  void take_level(std::size_t step);
  /// RF off at once; the run pauses.
  void drop_rf();

 private:
  void take(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  /// What runs by itself is only listened to.
  void take_unkeyed(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  void take_idle(std::size_t index, RfGuard& guard);
  /// A receiver: noise with RF off, then a level that is heard well enough, and half of it.
  void take_heard(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  /// Its indicator: the level at which it shows what the step says.
  void take_shown(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  /// Its IF: the level there at one level of the input and at a lower one.
  void take_at_if(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  std::vector<double> levels_at_if(const RunListen& how, std::size_t index, RfGuard& guard,
                                   const std::stop_token& stop);
  /// By how much the level is moved next, dB; 0 = it is there.
  double next_move_db(const RunListen& how, std::size_t index, RfGuard& guard,
                      const std::stop_token& stop);
  void modulate(const RunListen& how, bool on);
  /// RF off and confirmed, the generator set to a carrier of the level.
  void set_carrier(const RunListen& how, std::size_t index, double dbm, RfGuard& guard,
                   const std::stop_token& stop);
  /// Moves the level, RF on, until (S+N)/N tells something, or nothing is heard at the most.
  void find_heard_level(std::size_t index, HeardStep& heard, double most, RfGuard& guard,
                        const std::stop_token& stop);
  /// Output on; since when. `end_carrier`: off again, and handed over what was read.
  double key_carrier();
  void end_carrier(TakenStep taken, double keyed_at_s, RfGuard& guard);
  void settle_heard(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  void set_level(double dbm);
  void set_heard_level(double dbm, std::size_t index, RfGuard& guard, const std::stop_token& stop);
  /// Looks for birdies round it, where the dial moves by itself.
  void scan(HeardStep& heard, std::size_t index, RfGuard& guard, const std::stop_token& stop);
  std::vector<double> hear(const RunListen& how, int readings, std::size_t index, RfGuard& guard,
                           const std::stop_token& stop);
  void take_levels(TakenStep& taken, RfGuard& guard, const std::stop_token& stop);
  /// RF off, said why; waits until somebody goes on (true) or stops.
  bool halt(RunState halted, RfGuard& guard, const std::stop_token& stop);
  /// Whether the device stands otherwise than the step needs it.
  bool needs_switch(const RunStep& step) const;
  /// Whether somebody has to do something for it that has not been done.
  bool needs_hand(std::size_t index) const;
  /// The step that is next: those that must not be taken any more are left out.
  std::optional<std::size_t> next();
  /// Every source; those that do not confirm it.
  std::vector<std::string> switch_off(RfGuard& guard);
  /// Until the hook-up stands the step; how long that took, s.
  double rest(std::size_t index, const std::stop_token& stop);
  double find_level(const RunStep& step, std::size_t index, RfGuard& guard,
                    const std::stop_token& stop);
  bool is_steady_stimulus() const;
  double length_s(const RunStep& step) const;  ///< of what is taken, bench time
  std::size_t check_frames() const;
  double settled_pep_dbm(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  double look(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  /// Looks until two looks agree; noise never does.
  double steady_pep_dbm(double first_dbm, std::size_t index, RfGuard& guard,
                        const std::stop_token& stop);
  void compare_full_scale(TakenStep& taken) const;
  void leave(std::size_t step);     ///< mutex held
  void hand_over(TakenStep taken);  ///< and leave it
  /// Nothing more is keyed before somebody has looked.
  void demand_off(bool is_confirmed) const;
  double first_level_dbm(const RunStep& step) const;
  void listen_to(const std::stop_token& stop);
  void show(RunState::Kind kind, std::size_t step, double seconds_left = 0.0,
            const std::string& what = "");
  void stay_alive(RfGuard& guard, const std::stop_token& stop);
  /// Throws where a part would pass its rating within so many seconds of being keyed.
  void check_key_down(std::size_t index, double needed_s) const;
  bool wait_for_resume(const std::stop_token& stop);

  RunPlan plan_;
  RunInstruments with_;
  RunEvents events_;
  BenchTime time_;
  KeyDownClock clock_;
  RfGuard* guard_ = nullptr;  ///< while running
  std::mutex mutex_;
  std::condition_variable_any changed_;
  bool wants_pause_ = false;
  double moved_db_ = 0.0;  ///< that somebody asked for and has not been done
  bool is_there_ = false;  ///< the receiver shows it, as somebody has said
  std::deque<std::size_t> due_;
  std::size_t at_ = 0;
  std::optional<DrivePoint> known_;  ///< what the last drive gave
  std::optional<RfState> rf_ = std::nullopt;
  double generator_dbm_ = 0.0;
  std::map<std::size_t, double> levels_;  ///< of the generator at the steps that were taken
  bool is_bypassed_ = false;              ///< the device, as somebody has said
  std::optional<std::size_t> ready_for_;  ///< what that step asks for is done
  std::string ended_by_;                  ///< the first objection
  LevelLook look_{plan_, with_};
  ReadAlong along_{plan_, with_};
};

}  // namespace heron
