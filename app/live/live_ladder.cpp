#include "app/live/live_ladder.h"

#include <limits>
#include <set>

#include "app/live/live_plan.h"
#include "app/session/step_edits.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "store/clock.h"

namespace heron {
namespace {

/// How well two outputs at neighbouring drives compare: noise and settling.
constexpr double kPointU = 0.02;

}  // namespace

/// What the run's thread talks to; opened there.
struct LiveLadder::Conversation {
  std::unique_ptr<ScpiSession> generator;
  std::unique_ptr<ScpiSession> sampler;
  std::unique_ptr<ScpiSession> power_meter;
  std::unique_ptr<ScpiSession> supply;
  std::unique_ptr<ScpiSession> thermometer;
  std::unique_ptr<ScpiSession> analyser;
  std::unique_ptr<ScpiSession> counter;
  std::unique_ptr<ScpiSession> voltmeter;
};

LiveLadder::LiveLadder(Session& session, LiveInstruments& bench, ImportQueue& queue,
                       QObject* parent)
    : QObject(parent), session_(session), bench_(bench), queue_(queue) {}

LiveLadder::~LiveLadder() {
  end();
}

std::vector<int> LiveLadder::due(int only) const {
  return live_due(session_.loaded(), only);
}

Refusal LiveLadder::obstacle(int only) const {
  const PlannedTest* t = session_.planned();
  if (t == nullptr) return {tr("No test is open."), tr("Open one from the test plan")};
  if (const auto no = session_.refusal(t->test.id)) return *no;
  if (bench_.is_in_use() && !is_running())
    return {tr("The instruments are in use."), tr("Stop the live view first")};
  const bool is_full_output = only == std::numeric_limits<int>::max();
  for (const Role role : roles_needed(session_.loaded(), is_full_output ? -1 : only)) {
    if (!bench_.answers(role))
      return {tr("No %1 is connected.").arg(qt_text(std::string(role_kind(role).title)).toLower()),
              tr("Connect one on the bench, or use the simulated bench")};
  }
  if (!is_listening(session_.loaded()) && (!t->hookup || !t->test.drive || !t->planned))
    return {tr("This test has no hook-up with a planned drive."),
            tr("Say in the hook-up editor what is driven, and how hard")};
  if (const auto no = t->keying_obstacle()) return {qt_text(no->what), qt_text(no->what_to_do)};
  return live_plan(session_.loaded(), is_full_output ? std::vector<int>{} : due(only)).refusal;
}

void LiveLadder::start(int only) {
  if (is_running()) return;
  session_.settle();
  Refusal no = obstacle(only);
  const std::vector<int> indices = due(only);
  points_.clear();
  if (no.what.isEmpty() && indices.empty())
    no = {tr("Every step is measured."), tr("Choose one and measure it again")};
  if (!no.what.isEmpty()) {
    emit failed(no.what, no.what_to_do);
    return;
  }
  const LivePlan plan = live_plan(session_.loaded(), indices, !bench_.is_simulated());
  steps_ = plan.steps;
  labels_ = plan.labels;
  const Id test = session_.planned()->test.id;
  if (plan.keeper) {
    keep_readings(plan, test);
    return;
  }
  begin(plan.run, [this, number = number_ + 1, test, steps = plan.steps](TakenStep&& step) {
    if (step.index >= steps.size()) return;
    auto kept = std::make_shared<TakenStep>(std::move(step));
    QMetaObject::invokeMethod(
        this,
        [this, number, test, id = steps[kept->index], kept] {
          // It is kept even if its run has been ended meanwhile.
          if (number == number_) ++taken_;
          keep(test, id, *kept);
        },
        Qt::QueuedConnection);
  });
}

/// Each is looked at in the run's own thread before the next one is keyed, and kept in this one.
void LiveLadder::keep_readings(const LivePlan& plan, Id test) {
  const auto keeper = plan.keeper;
  begin(
      plan.run,
      [this, number = number_ + 1, test, keeper, steps = plan.steps,
       labels = plan.labels](TakenStep&& taken) {
        auto kept = std::make_shared<ReadingKeeper::Kept>(keeper->keep(taken));
        const QStringList cautions = [&] {
          QStringList all;
          for (const std::string& c : taken.cautions) all << qt_text(c);
          return all;
        }();
        QMetaObject::invokeMethod(
            this,
            [this, number, test, id = steps[taken.index], what = labels[taken.index], kept,
             cautions] {
              if (number == number_) ++taken_;
              StepEdits(session_).add_readings(test, id, tr("readings of %1").arg(what),
                                               kept->readings, kept->conditions);
              if (!cautions.isEmpty()) emit failed(tr("%1: %2").arg(what, cautions.join("; ")), {});
              emit changed();
            },
            Qt::QueuedConnection);
      },
      [keeper](std::size_t step) { return keeper->objection(step); }, tuner(plan),
      bench_.is_simulated() ? bench_.indicator() : nullptr);
}

/// On a simulated bench the receiver is tuned from the run's own thread; a hand does it elsewhere.
std::function<void(std::size_t, double)> LiveLadder::tuner(const LivePlan& plan) {
  if (!bench_.is_simulated() || !is_listening(session_.loaded())) return nullptr;
  const double beside_hz = recipe_of(session_.loaded()).listen->beside_hz;
  return
      [tune = bench_.tuner(), steps = plan.run.steps, beside_hz](std::size_t i, double moved_hz) {
        tune(steps.at(i).listen->frequency_hz - beside_hz + moved_hz);
      };
}

Refusal LiveLadder::full_output_obstacle() const {
  if (!recipe_of(session_.loaded()).is_over_drives)
    return {tr("Maximum output is found in a test over drives."), tr("Open a two-tone test")};
  return obstacle(std::numeric_limits<int>::max());
}

/// One tone, harder and harder, until the output follows no more.
void LiveLadder::find_full_output() {
  if (is_running()) return;
  session_.settle();
  if (const Refusal no = full_output_obstacle(); !no.what.isEmpty()) {
    emit failed(no.what, no.what_to_do);
    return;
  }
  RunPlan plan = full_output_plan(session_.loaded());
  steps_.clear();
  labels_ = {tr("one tone")};
  points_.clear();
  auto points = std::make_shared<std::vector<DrivePoint>>();
  begin(plan,
        [this, number = number_ + 1, points, most = plan.most_generator_dbm](TakenStep&& step) {
          points->push_back({step.generator_dbm, step.pep_dbm, kPointU});
          if (const auto next = next_drive_dbm(*points, most)) {
            RunStep further;
            further.setting = "one tone";
            further.generator_dbm = next;
            run_->append(further);
          }
          QMetaObject::invokeMethod(
              this,
              [this, number, now = *points] {
                if (number != number_) return;
                points_ = now;
                emit point_taken();
              },
              Qt::QueuedConnection);
        });
}

void LiveLadder::begin(const RunPlan& plan, std::function<void(TakenStep&&)> taken,
                       std::function<std::string(std::size_t)> objection,
                       std::function<void(std::size_t, double)> tune,
                       std::function<double()> shown) {
  const int number = ++number_;
  taken_ = 0;
  state_ = {};
  is_keyed_ = plan.is_keyed;
  bench_.follow_test();
  if (!labels_.empty()) bench_.follow_step(labels_.front());
  auto with = std::make_shared<Conversation>();
  with->generator = bench_.open(Role::generator);
  with->sampler = bench_.open(Role::sampler);
  with->power_meter = bench_.open(Role::power_meter);
  with->supply = bench_.open(Role::supply);
  with->thermometer = bench_.open(Role::thermometer);
  with->analyser = bench_.open(Role::spectrum_analyser);
  with->counter = bench_.open(Role::counter);
  with->voltmeter = bench_.open(Role::voltmeter);
  RunEvents events;
  events.state = [this, number](const RunState& s) {
    QMetaObject::invokeMethod(
        this,
        [this, number, s] {
          if (number == number_) see(s);
        },
        Qt::QueuedConnection);
  };
  events.taken = std::move(taken);
  events.objection = std::move(objection);
  events.tune = std::move(tune);
  events.shown = std::move(shown);
  run_ = std::make_shared<LadderRun>(
      plan,
      RunInstruments{with->generator.get(), with->sampler.get(), with->power_meter.get(),
                     with->supply.get(), with->thermometer.get(), with->analyser.get(),
                     with->counter.get(), with->voltmeter.get()},
      events, BenchTime(bench_.time_factor()));
  install_last_words();
  bench_.set_in_use(true);
  thread_ =
      std::make_unique<std::jthread>([this, number, with, run = run_](const std::stop_token& stop) {
        run->run(stop);
        // Sockets belong to this thread: they end here, not where the last pointer happens to be.
        *with = {};
        QMetaObject::invokeMethod(
            this,
            [this, number] {
              if (number == number_) finish();
            },
            Qt::QueuedConnection);
      });
  emit changed();
}

void LiveLadder::see(const RunState& state) {
  if (!is_running()) return;
  if (state.kind == RunState::Kind::taking && state_.kind != RunState::Kind::taking) {
    taking_since_ = std::chrono::steady_clock::now();
    taking_length_s_ = state.seconds_left;
  }
  state_ = state;
  if (state.rf) bench_.set_rf(*state.rf);
  if (may_be_on(state.rf) != was_rf_on_) {
    was_rf_on_ = may_be_on(state.rf);
    emit rf_changed(was_rf_on_);
  }
  if (!state.unconfirmed.empty())
    emit failed(tr("RF may still be on: %1 does not confirm that it is off.")
                    .arg(qt_text(state.unconfirmed.front())),
                tr("Switch it off by hand"));
  else if (state.kind == RunState::Kind::paused && !state.is_asked)
    emit failed(tr("Paused, RF is off. %1").arg(qt_text(state.what)), {});
  emit changed();
}

void LiveLadder::keep(Id test, Id step, TakenStep& taken) {
  taken.info.recorded_at = utc_now();
  taken.info.cautions = taken.cautions;
  if (taken.trace)
    queue_.add_taken(test, step, std::move(*taken.trace), std::move(taken.readings));
  else
    queue_.add_taken(test, step, std::move(taken.samples), taken.info, taken.full_scale_dbm,
                     std::move(taken.readings));
  emit changed();
}

/// The run has switched RF off, as far as that was confirmed, before its thread ends.
void LiveLadder::clear_run() {
  thread_->join();
  thread_.reset();
  run_.reset();
  bench_.set_in_use(false);
  if (state_.rf) bench_.set_rf(*state_.rf);
  // Where a source did not confirm, the clock stays until a person says that the key is up.
  if (!was_rf_on_ || !state_.unconfirmed.empty()) return;
  was_rf_on_ = false;
  emit rf_changed(false);
}

void LiveLadder::finish() {
  if (!thread_) return;
  clear_run();
  if (state_.unconfirmed.empty() && !points_.empty())
    emit full_output_ended();
  else if (state_.unconfirmed.empty())
    emit told(end_words());
  emit changed();
}

QString LiveLadder::end_words() const {
  const bool is_done = state_.kind == RunState::Kind::done;
  QString words;
  if (!is_keyed_)
    words = is_done ? tr("Recorded") : tr("Stopped; nothing was kept");
  else if (is_done && !state_.what.empty())
    words = tr("Ended before %1. RF is off; what was measured is kept").arg(qt_text(state_.what));
  else if (is_done)
    words = step_count() == 1 ? tr("1 step measured, RF is off")
                              : tr("%1 steps measured, RF is off").arg(step_count());
  else
    words = tr("Stopped after %1 of %2 steps, RF is off; what was measured is kept")
                .arg(taken_)
                .arg(steps_.size());
  if (state_.is_bypassed) words += tr(". The device is still bypassed: put it back in line");
  return words;
}

/// Of the test: with the device bypassed they are measured again.
std::size_t LiveLadder::step_count() const {
  return std::set<Id>(steps_.begin(), steps_.end()).size();
}

void LiveLadder::pause() {
  if (run_) run_->pause();
}

void LiveLadder::resume() {
  // On a simulated bench nobody stands who could switch.
  if (state_.kind == RunState::Kind::switching) bench_.set_bypassed(state_.to_bypass);
  if (!run_) return;
  // It is known to go on before the run says so: who drops RF meanwhile is heard.
  if (is_waiting()) state_.kind = RunState::Kind::setting;
  run_->resume();
  emit changed();
}

void LiveLadder::move_level(double db) {
  if (run_ && state_.kind == RunState::Kind::moving) run_->move_level(state_.step, db);
}

void LiveLadder::take_level() {
  if (run_ && state_.kind == RunState::Kind::moving) run_->take_level(state_.step);
}

void LiveLadder::skip() {
  if (run_) run_->skip();
}

void LiveLadder::stop() {
  if (thread_) thread_->request_stop();
}

bool LiveLadder::drop_rf() {
  if (!run_) return false;
  if (!is_keyed_) {
    stop();
    return true;
  }
  const bool was_active = !is_waiting();
  run_->drop_rf();  // what is shown may be older than what is keyed
  return was_active;
}

void LiveLadder::end() {
  if (!thread_) return;
  run_->drop_rf();
  thread_->request_stop();
  clear_run();
  emit changed();
}

std::optional<std::pair<double, double>> LiveLadder::taking_s() const {
  if (!is_running() || state_.kind != RunState::Kind::taking) return std::nullopt;
  const std::chrono::duration<double> since = std::chrono::steady_clock::now() - taking_since_;
  return std::pair(std::min(taking_length_s_, since.count() * bench_.time_factor()),
                   taking_length_s_);
}

QString LiveLadder::words() const {
  if (const auto now = taking_s(); now && !is_keyed_)
    return tr("%1: %2 of %3 s")
        .arg(state_.step < labels_.size() ? labels_[state_.step] : QString())
        .arg(now->first, 0, 'f', 0)
        .arg(now->second, 0, 'f', 0);
  const QString at = state_.step < labels_.size() ? labels_[state_.step] : QString();
  const auto seconds = [this] {
    return state_.seconds_left >= 0.05
               ? tr(", %1 s").arg(state_.seconds_left, 0, 'f', state_.seconds_left < 10.0 ? 1 : 0)
               : QString();
  };
  switch (state_.kind) {
    case RunState::Kind::resting:
      return tr("Resting before %1%2: %3").arg(at, seconds(), qt_text(state_.what));
    case RunState::Kind::setting:
      return tr("Setting %1").arg(at);
    case RunState::Kind::settling:
      return tr("Settling at %1%2").arg(at, seconds());
    case RunState::Kind::checking:
      return tr("Checking the level for %1").arg(at);
    case RunState::Kind::taking:
      return tr("Measuring %1%2").arg(at, seconds());
    case RunState::Kind::moving:
      return tr("Now %1 dBm: move it until the receiver shows %2")
          .arg(qt_text(number_text(state_.level_dbm, 1)), qt_text(state_.what));
    case RunState::Kind::paused:
      if (!state_.unconfirmed.empty())
        return tr("RF may still be on at %1: switch it off by hand, then go on")
            .arg(qt_text(state_.unconfirmed.front()));
      return state_.is_asked ? tr("Paused at %1, RF is off").arg(at) : qt_text(state_.what);
    case RunState::Kind::switching:
      if (!state_.prompt.empty()) return tr("RF is off. %1").arg(qt_text(state_.prompt));
      return state_.to_bypass
                 ? tr("RF is off. Join the cables without the device; Go on keys RF again")
                 : tr("RF is off. Put the device back in line; Go on keys RF again");
    case RunState::Kind::done:
      return tr("Done");
    case RunState::Kind::stopped:
    case RunState::Kind::failed:
      return tr("Stopped");
  }
  return {};
}

}  // namespace heron
