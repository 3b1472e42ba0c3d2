#include "app/live/log_keeper.h"

#include <algorithm>
#include <utility>

#include "app/live/sound_input.h"
#include "app/session/background_job.h"
#include "app/session/log_edits.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/live_quantity.h"
#include "instrument/live_reading.h"
#include "store/clock.h"
#include "store/series.h"

namespace heron {
namespace {

constexpr qint64 kShownEveryMs = 400;
constexpr qint64 kShareOfTime = 4;  // of the time, at most a quarter goes into figures

bool is_heard(const LogRecipe& recipe) {
  return !recipe.quantities.empty() && recipe.quantities.front() == kHeardTone;
}

std::optional<Role> role_of(const std::string& quantity) {
  const LiveSource* source = find_live_source(quantity);
  return source != nullptr ? std::optional(source->role) : std::nullopt;
}

}  // namespace

LogKeeper::LogKeeper(Session& session, LiveInstruments& bench, QObject* parent)
    : QObject(parent), session_(session), bench_(bench), sound_(new SoundInput(this)) {
  connect(&session, &Session::shack_opened, this, &LogKeeper::end);
}

LogKeeper::~LogKeeper() {
  delete job_;  // those who listened may be gone already
}

bool LogKeeper::can_log(const LogRecipe& recipe) const {
  if (is_heard(recipe)) return SoundInput::is_there(bench_);
  const auto role = recipe.quantities.empty() ? std::nullopt : role_of(recipe.quantities.front());
  return role && bench_.answers(*role) &&
         (recipe.stops.empty() || bench_.answers(Role::step_attenuator));
}

void LogKeeper::start(Id test, Id step, const LogRecipe& recipe) {
  if (job_ != nullptr) return;
  constexpr double kUsualHz = 10e6;
  bench_.follow_log(recipe.nominal_hz.value_or(kUsualHz), recipe.reference_dbm);
  auto sessions = std::make_shared<LogRun::Sessions>();
  for (const std::string& quantity : recipe.quantities) {
    const auto role = role_of(quantity);
    if (role && bench_.answers(*role) && !sessions->contains(*role))
      (*sessions)[*role] = bench_.open(*role);
  }
  if (!recipe.stops.empty())
    (*sessions)[Role::step_attenuator] = bench_.open(Role::step_attenuator);
  auto ear = std::make_shared<std::optional<ToneEar>>();
  if (is_heard(recipe)) {
    *ear = sound_->listen(bench_, {recipe.tone_hz, recipe.nominal_hz, recipe.is_upper});
    if (!*ear) {
      emit failed(tr("The sound input cannot be opened."),
                  tr("Look whether another program has it, and at the sound settings"));
      return;
    }
  }
  LogPlan plan{recipe.quantities, recipe.every_s, recipe.length_s};
  plan.readings = recipe.readings;
  plan.settle_s = recipe.settle_s;
  for (const LogRecipe::Stop& stop : recipe.stops) plan.stops_db.push_back(stop.attenuation_db);
  at_stop_.clear();
  test_ = test;
  step_ = step;
  recipe_ = recipe;
  series_.clear();
  begun_at_.clear();
  seconds_ = 0.0;
  shown_.invalidate();
  pause_ms_ = 0;
  const int number = ++number_;
  job_ = new BackgroundJob(
      tr("log"),
      [this, number, sessions, time = BenchTime(bench_.time_factor()), plan, ear](
          const Progress& progress, const std::stop_token& stop) {
        // Sockets end in the thread that used them.
        LogRun run(std::move(*sessions), plan, time, std::exchange(*ear, std::nullopt));
        run.run(
            [this, number](const LogSample& sample) {
              QMetaObject::invokeMethod(
                  this, [this, number, sample] { keep(number, sample); }, Qt::QueuedConnection);
            },
            progress, stop);
      },
      this);
  bench_.set_in_use(true);
  connect(job_, &BackgroundJob::progressed, this, &LogKeeper::progressed);
  connect(job_, &BackgroundJob::finished, this, &LogKeeper::finish);
  connect(job_, &BackgroundJob::cancelled, this, &LogKeeper::finish);
  connect(job_, &BackgroundJob::failed, this, [this](const QString& what, const QString& todo) {
    finish();
    emit failed(what, todo);
  });
  job_->start();
}

std::string LogKeeper::now() const {
  return job_ == nullptr || begun_at_.empty() ? utc_now() : utc_after(begun_at_, seconds_);
}

void LogKeeper::stop() {
  if (job_ != nullptr) job_->cancel();
}

void LogKeeper::end() {
  if (job_ == nullptr) return;
  ++number_;  // what was read and not kept yet belongs to another shack
  delete std::exchange(job_, nullptr);
  sound_->close();
  bench_.set_in_use(false);
  emit ended();
}

void LogKeeper::finish() {
  if (job_ == nullptr) return;
  std::exchange(job_, nullptr)->deleteLater();
  sound_->close();
  bench_.set_in_use(false);
  if (session_.is_open() && !series_.empty()) session_.reload(test_);
  emit ended();
}

void LogKeeper::keep(int number, const LogSample& sample) {
  if (number != number_ || !session_.is_open()) return;
  if (!sample.missed.empty()) emit missed(qt_text(sample.missed));
  seconds_ = sample.seconds;
  if (!recipe_.stops.empty()) {
    keep_stop(sample);
    return;
  }
  try {
    std::vector<Series> begun;
    for (const Reading& r : sample.readings) {
      if (begun_at_.empty()) begun_at_ = utc_after(r.at, -sample.seconds);
      const auto known = series_.find(r.quantity);
      if (known != series_.end()) {
        append_samples(session_.shack(), known->second, {{sample.seconds, r.value}});
        continue;
      }
      Series log;
      log.quantity = r.quantity;
      log.unit = r.unit;
      log.instrument = r.instrument;
      log.started_at = begun_at_;
      log.samples = {{sample.seconds, r.value}};
      begun.push_back(std::move(log));
    }
    if (!begun.empty()) {
      const auto kept = LogEdits(session_).add_logs(test_, step_, qt_text(recipe_.step), begun);
      if (!kept) {
        stop();
        return;
      }
      step_ = kept->step;
      for (std::size_t i = 0; i < begun.size(); ++i) series_[begun[i].quantity] = kept->series[i];
    }
  } catch (const InputError& error) {
    stop();
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    return;
  }
  // Its figures follow, now and then; the readings of a long log come first.
  if (session_.is_waiting() || (shown_.isValid() && shown_.elapsed() < pause_ms_)) return;
  shown_.start();
  session_.reload(test_);
  pause_ms_ = std::max(kShownEveryMs, kShareOfTime * shown_.elapsed());
}

/// All readings of a stop together, on a step of its name.
void LogKeeper::keep_stop(const LogSample& sample) {
  at_stop_.insert(at_stop_.end(), sample.readings.begin(), sample.readings.end());
  if (!sample.is_last) return;
  const LogRecipe::Stop& stop = recipe_.stops[sample.stop];
  const std::vector<Reading> readings = std::exchange(at_stop_, {});
  if (readings.empty()) return;
  LogEdits(session_).add_stop(test_, qt_text(stop.step), readings,
                              {recipe_.stop_condition, stop.attenuation_db, "dB"});
}

}  // namespace heron
