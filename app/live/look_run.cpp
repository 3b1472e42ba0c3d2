#include "app/live/look_run.h"

#include "app/live/live_plan.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "instrument/last_words.h"
#include "store/clock.h"

namespace heron {
namespace {

constexpr double kOverPlannedDb = 0.5;
constexpr double kUpdatesPerSecond = 25.0;

}  // namespace

LookRun::LookRun(Session& session, LiveInstruments& bench, QObject* parent)
    : QObject(parent), session_(session), bench_(bench) {}

LookRun::~LookRun() {
  end();
}

Refusal LookRun::obstacle() const {
  if (!bench_.answers(Role::sampler))
    return {tr("No sampler is connected."),
            tr("Connect one on the bench, or use the simulated bench")};
  if (bench_.is_in_use() && !is_running())
    return {tr("The instruments are in use."), tr("Wait for the measurement to end, or stop it")};
  return {};
}

Refusal LookRun::key_obstacle() const {
  const PlannedTest* t = session_.planned();
  if (!bench_.answers(Role::generator))
    return {tr("No generator is connected."), tr("Key by hand, or connect one on the bench")};
  if (t == nullptr || !t->hookup || !t->test.drive || !t->planned)
    return {tr("This test has no hook-up with a planned drive."),
            tr("Say in the hook-up editor what is driven, and how hard")};
  if (const auto no = t->keying_obstacle()) return {qt_text(no->what), qt_text(no->what_to_do)};
  return {};
}

void LookRun::set_rate(double hz) {
  plan_.rate_hz = hz;
  if (!is_running()) return;
  end();
  start();
}

void LookRun::start() {
  if (is_running()) return;
  session_.settle();
  if (const Refusal no = obstacle(); !no.what.isEmpty()) {
    emit failed(no.what, no.what_to_do);
    return;
  }
  const PlannedTest* t = session_.planned();
  const bool can_key = key_obstacle().what.isEmpty();
  plan_.frames = static_cast<std::size_t>(plan_.rate_hz / kUpdatesPerSecond);
  plan_.chain = {};
  if (t != nullptr && t->test.drive) {
    plan_.center_hz = t->test.drive->frequency_hz;
    plan_.drive = *t->test.drive;
    plan_.most_output_dbm = t->test.drive->pep_dbm + kOverPlannedDb;
  }
  if (t != nullptr && t->hookup) plan_.chain = aged(t->hookup->chain, utc_now());
  if (const auto tones = recipe_of(session_.loaded()).tones_hz) plan_.stimulus.tones_hz = *tones;
  plan_.most_generator_dbm = taking_now(session_.loaded()).most_drive_dbm;
  level_dbm_ = std::min(level_dbm_, plan_.most_generator_dbm);
  bench_.follow_test();
  std::shared_ptr<ScpiSession> sampler = bench_.open(Role::sampler);
  std::shared_ptr<ScpiSession> generator;
  if (can_key) generator = bench_.open(Role::generator);
  frame_ = {};
  last_what_.clear();
  const auto due = is_due_;
  look_ = std::make_shared<LiveLook>(
      plan_, *sampler, generator.get(),
      [this, due] {
        // One update on its way is enough: a busy window skips frames, it does not queue them.
        if (due->exchange(true)) return;
        QMetaObject::invokeMethod(this, [this] { see(); }, Qt::QueuedConnection);
      },
      BenchTime(bench_.time_factor()));
  look_->set_averages(averages_);
  look_->set_level(level_dbm_);
  install_last_words();
  bench_.set_in_use(true);
  thread_ = std::make_unique<std::jthread>(
      [look = look_, sampler, generator](const std::stop_token& stop) mutable {
        look->run(stop);
        // Sockets end in the thread that they belong to.
        look.reset();
        generator.reset();
        sampler.reset();
      });
  emit changed();
}

void LookRun::see() {
  is_due_->store(false);
  if (!look_ || !look_->latest(frame_)) return;
  if (look_->can_key() && frame_.rf) bench_.set_rf(*frame_.rf);
  if (may_be_on(frame_.rf) != was_rf_on_) {
    was_rf_on_ = may_be_on(frame_.rf);
    emit rf_changed(was_rf_on_);
    emit changed();
  }
  if (!frame_.what.empty() && frame_.what != last_what_)
    emit failed(qt_text(frame_.what), tr("RF is keyed again only on your command"));
  last_what_ = frame_.what;
  emit updated();
}

void LookRun::key(bool on) {
  if (!look_) return;
  if (on) {
    if (const Refusal no = key_obstacle(); !no.what.isEmpty()) {
      emit failed(no.what, no.what_to_do);
      return;
    }
  }
  look_->key(on);
}

void LookRun::set_level(double dbm) {
  level_dbm_ = std::min(dbm, plan_.most_generator_dbm);
  if (look_) look_->set_level(level_dbm_);
}

void LookRun::set_averages(unsigned segments) {
  averages_ = segments;
  if (look_) look_->set_averages(segments);
}

void LookRun::clear() {
  if (look_) look_->clear();
}

bool LookRun::drop_rf() {
  if (!look_) return false;
  const bool was_keyed = may_be_on(frame_.rf);
  look_->drop_rf();
  return was_keyed;
}

void LookRun::end() {
  if (!thread_) return;
  look_->drop_rf();
  thread_->request_stop();
  thread_->join();
  thread_.reset();
  see();
  look_.reset();
  bench_.set_in_use(false);
  // Where a source did not confirm, the clock stays until a person says that the key is up.
  if (was_rf_on_ && frame_.rf != RfState::unknown) {
    was_rf_on_ = false;
    emit rf_changed(false);
  }
  frame_.rf.reset();
  emit changed();
}

}  // namespace heron
