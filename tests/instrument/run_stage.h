#pragma once

#include <QtTest>
#include <atomic>
#include <thread>

#include "instrument/ladder_run.h"
#include "simbench/sim_server.h"
#include "tests/core/made_chain.h"
#include "tests/draws.h"

namespace heron::testing {

using sim::Fault;
using sim::SimServer;

inline Chain stated_chain() {
  Chain chain = pad_and_sampler(50.0);
  chain.parts[0].max_input_w = 20.0;
  chain.parts[0].time_constant_s = 120.0;
  chain.parts[1].max_input_dbm = 10.0;
  return chain;
}

/// A server, its sessions, and a run in a thread of its own.
struct Stage {
  explicit Stage(double time_factor = 200.0) : Stage(config(time_factor)) {}
  explicit Stage(const sim::SimConfig& bench) : server(bench) {
    plan.chain = stated_chain();
    plan.center_hz = 14.2e6;
    plan.rate_hz = 48000.0;
    plan.frames = 48000;
    plan.settle_s = 0.2;
    plan.most_output_dbm = 45.0;
    plan.most_generator_dbm = -10.0;
    plan.start_generator_dbm = -40.0;
    for (const double w : {3.0, 6.0, 12.0, 20.0}) {
      RunStep step;
      step.setting = QString("%1 W").arg(w).toStdString();
      step.output_pep_dbm = 30.0 + 10.0 * std::log10(w);
      plan.steps.push_back(step);
    }
  }
  /// A busy machine computes the samples slowly, above all under the sanitizers.
  double answers_within_s = kFewDraws ? 30.0 : 3.0;
  static sim::SimConfig config(double time_factor) {
    sim::SimConfig c;
    c.time_factor = time_factor;
    c.chain = stated_chain();
    return c;
  }

  void start() {
    run_thread = std::jthread([this](const std::stop_token& stop) {
      Profile profile = generic_profile();
      profile.timeout_s = answers_within_s;
      const auto open = [&](const char* name) {
        auto s = std::make_unique<ScpiSession>(name, parse_address(server.address(name)), profile);
        s->connect();
        return s;
      };
      auto generator = open("generator");
      auto sampler = open("sampler");
      auto meter = open("power_meter");
      auto analyser = open("spectrum_analyser");
      auto counter = open("counter");
      auto supply = open("supply");
      auto voltmeter = open("voltmeter");
      RunEvents events;
      events.state = [this](const RunState& s) {
        // In the run's own thread: a test that waits and then acts may come too late.
        if (pulled_while_taking && s.kind == RunState::Kind::taking && s.step == pulled_at_step &&
            !was_pulled.exchange(true))
          server.pull(*pulled_while_taking);
        const std::scoped_lock lock(mutex);
        if (states.empty() || states.back().kind != s.kind) states.push_back(s);
        kind = s.kind;
        what = s.what;
        instrument = s.instrument;
        last = s;
        was_keyed_at_switch = was_keyed_at_switch ||
                              (s.kind == RunState::Kind::switching && server.bench().is_keyed());
      };
      events.taken = [this](TakenStep&& step) {
        if (append_below_dbm && step.generator_dbm + 3.0 < *append_below_dbm + 0.5) {
          RunStep further;
          further.setting = "further";
          further.generator_dbm = step.generator_dbm + 3.0;
          run.load()->append(further);
        }
        const std::scoped_lock lock(mutex);
        taken.push_back(std::move(step));
      };
      events.objection = objection;
      events.tune = tune;
      events.shown = shown;
      LadderRun made(plan,
                     {generator.get(), has_sampler ? sampler.get() : nullptr, meter.get(),
                      has_supply ? supply.get() : nullptr, nullptr,
                      has_analyser ? analyser.get() : nullptr, counter.get(), voltmeter.get()},
                     events, BenchTime(server.bench().config().time_factor));
      run = &made;
      is_complete = made.run(stop);
      run = nullptr;
      is_over = true;
    });
  }
  RunState::Kind now() {
    const std::scoped_lock lock(mutex);
    return kind;
  }
  /// Goes on after every pause, as a person would; a busy machine may make more of them.
  void go_on_to_the_end(bool may_be_keyed = false) {
    for (int pauses = 0; pauses < 20 && !is_over; ++pauses) {
      QTRY_VERIFY_WITH_TIMEOUT(is_over || is_waiting(), 20000);
      if (is_over) return;
      if (now() == RunState::Kind::switching) {
        ++switches;
        server.bench().set_bypassed(last.to_bypass);
      } else {
        ++pauses_met;
      }
      QVERIFY(may_be_keyed || !server.bench().is_keyed());
      may_be_keyed = false;
      {
        const std::scoped_lock lock(mutex);
        kind = RunState::Kind::setting;
      }
      if (LadderRun* r = run.load()) r->resume();
    }
    QTRY_VERIFY_WITH_TIMEOUT(is_over, 20000);
  }
  bool is_waiting() {
    const RunState::Kind k = now();
    return k == RunState::Kind::paused || k == RunState::Kind::switching;
  }
  std::size_t count() {
    const std::scoped_lock lock(mutex);
    return taken.size();
  }

  SimServer server;
  RunPlan plan;
  std::mutex mutex;
  std::vector<RunState> states;
  std::vector<TakenStep> taken;
  std::optional<std::string> pulled_while_taking;  ///< this instrument, at this step
  std::size_t pulled_at_step = 1;
  std::atomic<bool> was_pulled{false};
  std::optional<double> append_below_dbm;  ///< 3 dB more after each step, up to there
  RunState::Kind kind = RunState::Kind::setting;
  RunState last;
  std::function<std::string(std::size_t)> objection;
  std::function<void(std::size_t, double)> tune;
  std::function<double()> shown;
  bool has_supply = false;
  bool has_sampler = true;
  bool has_analyser = true;
  bool was_keyed_at_switch = false;
  int switches = 0;
  int pauses_met = 0;
  std::string what;
  std::string instrument;
  std::atomic<LadderRun*> run{nullptr};
  std::atomic<bool> is_complete{false};
  std::atomic<bool> is_over{false};
  std::jthread run_thread;
};

/// Everything that can go wrong with an instrument, as rows of a data-driven test.
inline const std::vector<std::pair<const char*, Fault>>& all_faults() {
  static const std::vector<std::pair<const char*, Fault>> faults{
      {"garbage", Fault::garbage},
      {"cut short", Fault::truncated_block},
      {"wrong length", Fault::wrong_length},
      {"silent", Fault::silent},
      {"late", Fault::late},
      {"closes", Fault::closes},
      {"over range", Fault::over_range}};
  return faults;
}

}  // namespace heron::testing
