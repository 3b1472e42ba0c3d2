#include "app/live/meter_watch.h"

#include <algorithm>
#include <map>
#include <utility>

#include "app/live/sound_input.h"
#include "core/method/live_quantity.h"
#include "instrument/bench_time.h"
#include "instrument/live_reading.h"

namespace heron {
namespace {

/// Belongs to the thread that reads.
using Sessions = std::map<Role, std::unique_ptr<ScpiSession>>;

constexpr double kListenS = 3.0;

void read_look(Sessions& sessions, const std::optional<ToneEar>& ear, const MeterWatch::Look& look,
               std::vector<Reading>& readings, const std::stop_token& stop) {
  for (const std::string& quantity : look.quantities) {
    if (quantity == kHeardTone && ear) {
      Reading r = live_reading(quantity, ear->hear(kListenS, stop), ear->name);
      r.role = look.role;
      readings.push_back(std::move(r));
    }
    const LiveSource* shown = find_live_source(quantity);
    const auto session = shown != nullptr ? sessions.find(shown->role) : sessions.end();
    if (session == sessions.end() || !session->second->can(shown->role, shown->command)) continue;
    Reading r = live_reading(quantity, session->second->ask_number(shown->role, shown->command),
                             session->second->name());
    r.role = look.role;
    readings.push_back(std::move(r));
  }
}

}  // namespace

MeterWatch::MeterWatch(LiveInstruments& bench, QObject* parent)
    : QObject(parent), bench_(bench), sound_(new SoundInput(this)) {}

MeterWatch::~MeterWatch() {
  delete job_;  // those who listened may be gone already
}

void MeterWatch::end() {
  if (job_ == nullptr) return;
  delete std::exchange(job_, nullptr);
  sound_->close();
  bench_.set_in_use(false);
  emit ended();
}

bool MeterWatch::can_read(std::string_view quantity) const {
  if (quantity == kHeardTone) return SoundInput::is_there(bench_);
  const LiveSource* shown = find_live_source(quantity);
  return shown != nullptr && bench_.answers(shown->role);
}

void MeterWatch::start(const QString& what, const std::vector<Look>& looks, double between_s,
                       std::optional<double> frequency_hz) {
  if (job_ != nullptr || looks.empty()) return;
  what_ = what;
  auto sessions = std::make_shared<Sessions>();
  auto ear = std::make_shared<std::optional<ToneEar>>();
  for (const Look& look : looks) {
    for (const std::string& quantity : look.quantities) {
      if (quantity == kHeardTone && !*ear) *ear = sound_->listen(bench_, {});
      if (quantity == kHeardTone || !can_read(quantity)) continue;
      const Role role = find_live_source(quantity)->role;
      if (!sessions->contains(role)) (*sessions)[role] = bench_.open(role);
    }
  }
  auto readings = std::make_shared<std::vector<Reading>>();
  const BenchTime time(bench_.time_factor());
  const int number = ++number_;
  job_ = new BackgroundJob(
      what,
      [this, number, sessions, ear, readings, looks, between_s, frequency_hz, time](
          const Progress& progress, const std::stop_token& stop) {
        // Sockets end in the thread that used them.
        const auto end = [&](void*) {
          sessions->clear();
          ear->reset();
        };
        const std::unique_ptr<void, decltype(end)> at_the_end(sessions.get(), end);
        for (auto& [role, session] : *sessions) session->set_stop(stop);
        const auto meter = sessions->find(Role::power_meter);
        if (frequency_hz && meter != sessions->end() &&
            meter->second->can(Role::power_meter, "set_frequency"))
          meter->second->tell(Role::power_meter, "set_frequency", {{"hz", *frequency_hz}});
        for (std::size_t i = 0; i < looks.size(); ++i) {
          if (i > 0)
            time.wait(between_s, [&](double left) {
              if (stop.stop_requested()) throw Cancelled();
              if (progress) progress(1.0 - left / between_s);
            });
          read_look(*sessions, *ear, looks[i], *readings, stop);
          if (i + 1 < looks.size())
            QMetaObject::invokeMethod(
                this,
                [this, number, now = *readings] {
                  if (number == number_ && job_ != nullptr) emit looked(now);
                },
                Qt::QueuedConnection);
        }
      },
      this);
  bench_.set_in_use(true);
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    sound_->close();
    bench_.set_in_use(false);
    emit ended();
  };
  connect(job_, &BackgroundJob::progressed, this, &MeterWatch::progressed);
  connect(job_, &BackgroundJob::finished, this, [this, readings, end] {
    end();
    emit read(*readings);
  });
  connect(job_, &BackgroundJob::cancelled, this, end);
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& why, const QString& what_to_do) {
            end();
            emit failed(why, what_to_do);
          });
  job_->start();
}

void MeterWatch::stop() {
  if (job_ == nullptr) return;
  job_->cancel();
}

}  // namespace heron
