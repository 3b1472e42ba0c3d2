#pragma once

#include <complex>
#include <condition_variable>
#include <deque>
#include <functional>
#include <mutex>
#include <optional>
#include <set>
#include <stop_token>
#include <string>
#include <vector>

#include "core/chain/chain.h"
#include "core/chain/key_down_clock.h"
#include "core/method/evidence.h"
#include "core/method/reference_level.h"
#include "core/signal/capture.h"
#include "core/signal/trace_csv.h"
#include "instrument/bench_time.h"
#include "instrument/rf_guard.h"
#include "instrument/rf_state.h"
#include "instrument/scpi_session.h"
#include "instrument/stimulus_words.h"

namespace heron {

/// A sweep of a spectrum analyser instead of samples.
struct RunSweep {
  double from_hz = 0.0;
  double to_hz = 0.0;
  double rbw_hz = 10e3;
  std::size_t points = 10001;

  /// How long it may take: a swept filter needs some span / RBW^2.
  double length_s() const { return 1.0 + 4.0 * (to_hz - from_hz) / (rbw_hz * rbw_hz); }
};

/// One step of an automatic ladder.
struct RunStep {
  std::string setting;                   ///< as the ladder calls it: "10 W"
  std::optional<double> generator_dbm;   ///< set this level; or
  std::optional<double> output_pep_dbm;  ///< search the level that gives this at the device
  std::optional<RunSweep> sweep;         ///< taken with the analyser
  std::optional<double> center_hz;       ///< sampled here instead of round the carrier
};

struct RunPlan {
  std::vector<RunStep> steps;
  RunStimulus stimulus;
  double center_hz = 0.0;
  double rate_hz = 48000.0;
  std::size_t frames = 1U << 19U;
  double settle_s = 0.5;
  Chain chain;                         ///< device to sampler: levels, ratings, rest
  double most_output_dbm = 50.0;       ///< PEP at the device above which RF goes off at once
  double most_generator_dbm = 0.0;     ///< never more than this
  double start_generator_dbm = -50.0;  ///< where a search begins
  double watchdog_s = 15.0;
  bool reads_along = true;  ///< what else the instruments show is kept with each step
};

/// What one step gave.
struct TakenStep {
  std::size_t index = 0;
  std::vector<std::complex<float>> samples;
  CaptureInfo info;
  std::optional<SpectrumTrace> trace;  ///< of a sweep; then there are no samples
  double generator_dbm = 0.0;
  double pep_dbm = 0.0;  ///< at the device, from the level check
  double full_scale_dbm = 0.0;
  std::vector<Reading> readings;  ///< what else was read at the step, RF on
  std::vector<std::string> cautions;
};

/// Where a run stands.
struct RunState {
  enum class Kind { resting, setting, settling, checking, taking, paused, done, stopped, failed };
  Kind kind = Kind::setting;
  bool is_asked = false;  ///< paused because somebody wanted it, not because something failed
  std::size_t step = 0;
  double seconds_left = 0.0;
  std::string instrument;                    ///< the one that made it pause
  std::string what;                          ///< in words, with what to do
  std::optional<RfState> rf = std::nullopt;  ///< nullopt = nothing was asked of a source yet
  std::vector<std::string> unconfirmed;      ///< sources that did not say that they are off
};

/// Who listens; called from the run's thread. `taken` must only hand on.
struct RunEvents {
  std::function<void(const RunState&)> state;
  std::function<void(TakenStep&&)> taken;
};

/// The instruments of a run; optional ones may be null.
struct RunInstruments {
  ScpiSession* generator = nullptr;
  ScpiSession* sampler = nullptr;
  ScpiSession* power_meter = nullptr;
  ScpiSession* supply = nullptr;
  ScpiSession* thermometer = nullptr;
  ScpiSession* analyser = nullptr;
  ScpiSession* counter = nullptr;
};

/// Takes the steps of a ladder one after the other. RF is on only while a step settles and is
/// taken. An instrument that fails makes it pause with RF off; `resume` takes the step again, and
/// no step that was taken is lost. `run` belongs to the thread of the sessions; the other calls may
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
  /// RF off at once; the run pauses.
  void drop_rf();

 private:
  /// The plan itself cannot be carried out as it is.
  static InputError refused(const std::string& setting, const std::string& why,
                            const std::string& todo);
  void take(std::size_t index, RfGuard& guard, const std::stop_token& stop);
  void rest(std::size_t index, const std::stop_token& stop);
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
  void take_samples(const RunStep& step, std::size_t index, TakenStep& taken, RfGuard& guard);
  void take_sweep(const RunStep& step, std::size_t index, TakenStep& taken, RfGuard& guard);
  void read_others(TakenStep& taken, RfGuard& guard);
  /// Of two tones or noise a counter shows nothing that means anything; one whose gate cannot be
  /// set would keep RF on for nobody knows how long.
  bool reads_counter() const;
  void set_gate(TakenStep& taken);
  void read_along(TakenStep& taken, RfGuard& guard, ScpiSession* session, Role role,
                  const char* command, const char* quantity);
  void leave(std::size_t step);  ///< mutex held
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
  std::deque<std::size_t> due_;
  std::size_t at_ = 0;
  std::optional<DrivePoint> known_;  ///< what the last drive gave
  std::optional<RfState> rf_ = std::nullopt;
  double generator_dbm_ = 0.0;
  double full_scale_dbm_ = 0.0;
  std::vector<char> block_;
  std::vector<float> samples_;
  std::set<const ScpiSession*> left_out_;  ///< failed once beside a step; not waited for again
};

}  // namespace heron
