#include "instrument/log_run.h"

#include <algorithm>
#include <cmath>
#include <fmt/format.h>
#include <utility>

#include "core/method/live_quantity.h"
#include "instrument/live_reading.h"

namespace heron {
namespace {

constexpr double kSameDb = 0.05;
constexpr double kListenS = 1.0;  // long enough for a millihertz at 20 dB

}  // namespace

LogRun::LogRun(Sessions sessions, LogPlan plan, BenchTime time, std::optional<ToneEar> ear)
    : sessions_(std::move(sessions)), plan_(std::move(plan)), time_(time), ear_(std::move(ear)) {}

LogSample LogRun::sample(double seconds, const std::stop_token& stop) {
  LogSample s;
  s.seconds = seconds;
  for (const std::string& quantity : plan_.quantities) {
    if (quantity == kHeardTone)
      listen(s, stop);
    else
      ask(quantity, s);
  }
  return s;
}

void LogRun::ask(const std::string& quantity, LogSample& s) {
  const LiveSource* source = find_live_source(quantity);
  const auto session = source != nullptr ? sessions_.find(source->role) : sessions_.end();
  if (session == sessions_.end() || !session->second->can(source->role, source->command)) return;
  const bool is_first = quantity == plan_.quantities.front();
  try {
    if (!session->second->is_open()) session->second->connect();
    const double value = session->second->ask_number(source->role, source->command);
    if (std::isfinite(value))
      s.readings.push_back(live_reading(quantity, value, session->second->name()));
    else if (is_first)
      s.missed = session->second->name() + ": no number";
  } catch (const InstrumentError& error) {
    if (is_first) s.missed = error.what_happened();
  }
}

/// A tone that fades leaves a gap.
void LogRun::listen(LogSample& s, const std::stop_token& stop) {
  if (!ear_) return;
  try {
    s.readings.push_back(live_reading(kHeardTone, ear_->hear(kListenS, stop), ear_->name));
  } catch (const InputError& error) {
    s.missed = error.what_happened();
  }
}

void LogRun::run(const std::function<void(const LogSample&)>& sampled, const Progress& progress,
                 const std::stop_token& stop) {
  const std::string first = plan_.quantities.empty() ? std::string() : plan_.quantities.front();
  const LiveSource* source = find_live_source(first);
  if (first == kHeardTone ? !ear_ : source == nullptr || !sessions_.contains(source->role))
    throw InputError("log", "", "no instrument shows what it is of", "Connect one");
  for (auto& [role, session] : sessions_) session->set_stop(stop);
  if (!plan_.stops_db.empty()) {
    run_stops(sampled, progress, stop);
    return;
  }
  const double begun = time_.now_s();
  // By its number: times do not creep, however long an answer takes.
  for (long long i = 0; static_cast<double>(i) * plan_.every_s <= plan_.length_s; ++i) {
    const double due = static_cast<double>(i) * plan_.every_s;
    const double late = time_.now_s() - begun - due;
    // What it is too late for is left out, not crowded in.
    if (late > plan_.every_s) continue;
    time_.wait(std::max(0.0, -late), [&](double left) {
      if (stop.stop_requested()) throw Cancelled();
      if (progress) progress(std::clamp((due - left) / plan_.length_s, 0.0, 1.0));
    });
    if (stop.stop_requested()) throw Cancelled();
    const double asked = time_.now_s() - begun;
    sampled(sample(asked, stop));
  }
}

void LogRun::wait(double seconds, const std::stop_token& stop) const {
  time_.wait(seconds, [&](double) {
    if (stop.stop_requested()) throw Cancelled();
  });
}

void LogRun::run_stops(const std::function<void(const LogSample&)>& sampled,
                       const Progress& progress, const std::stop_token& stop) {
  const auto found = sessions_.find(Role::step_attenuator);
  if (found == sessions_.end() || !found->second->can(Role::step_attenuator, "set_attenuation"))
    throw InputError("log", "", "no step attenuator answers", "Connect one, or set it by hand");
  ScpiSession& attenuator = *found->second;
  if (!attenuator.is_open()) attenuator.connect();
  const auto set = [&attenuator](double db) {
    attenuator.tell(Role::step_attenuator, "set_attenuation", {{"db", db}});
    if (!attenuator.can(Role::step_attenuator, "read")) return;
    // Only what it says it stands at is known.
    const double stands = attenuator.ask_number(Role::step_attenuator, "read");
    if (std::abs(stands - db) > kSameDb)
      throw InputError(attenuator.name(), "",
                       fmt::format("it stands at {:g} dB instead of {:g} dB", stands, db),
                       "Look at its range, or set it by hand");
  };
  // A stop must not keep it from being set back.
  const auto back = [&](void*) {
    attenuator.set_stop({});
    try {
      set(plan_.stops_db.front());
    } catch (const InputError& error) {
      LogSample last;
      last.stop = plan_.stops_db.size() - 1;
      last.missed = error.what_happened();
      sampled(last);
    }
  };
  const std::unique_ptr<void, decltype(back)> at_the_end(&attenuator, back);
  const double begun = time_.now_s();
  for (std::size_t i = 0; i < plan_.stops_db.size(); ++i) {
    set(plan_.stops_db[i]);
    wait(plan_.settle_s, stop);
    for (std::size_t k = 0; k < plan_.readings; ++k) {
      LogSample one = sample(time_.now_s() - begun, stop);
      one.stop = i;
      one.is_last = k + 1 == plan_.readings;
      sampled(one);
      if (!one.is_last) wait(plan_.every_s, stop);
    }
    if (progress) progress(static_cast<double>(i + 1) / static_cast<double>(plan_.stops_db.size()));
  }
}

}  // namespace heron
