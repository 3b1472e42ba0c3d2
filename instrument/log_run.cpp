#include "instrument/log_run.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "instrument/live_reading.h"

namespace heron {
namespace {

const LiveSource* source_of(const std::string& quantity) {
  const auto all = live_sources();
  const auto found = std::find_if(all.begin(), all.end(),
                                  [&](const LiveSource& s) { return s.quantity == quantity; });
  return found == all.end() ? nullptr : &*found;
}

}  // namespace

LogRun::LogRun(Sessions sessions, LogPlan plan, BenchTime time)
    : sessions_(std::move(sessions)), plan_(std::move(plan)), time_(time) {}

LogSample LogRun::sample(double seconds) {
  LogSample s;
  s.seconds = seconds;
  for (const std::string& quantity : plan_.quantities) {
    const LiveSource* source = source_of(quantity);
    const auto session = source != nullptr ? sessions_.find(source->role) : sessions_.end();
    if (session == sessions_.end() || !session->second->can(source->role, source->command))
      continue;
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
  return s;
}

void LogRun::run(const std::function<void(const LogSample&)>& sampled, const Progress& progress,
                 const std::stop_token& stop) {
  const LiveSource* first =
      plan_.quantities.empty() ? nullptr : source_of(plan_.quantities.front());
  if (first == nullptr || !sessions_.contains(first->role))
    throw InputError("log", "", "no instrument shows what it is of", "Connect one");
  for (auto& [role, session] : sessions_) session->set_stop(stop);
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
    sampled(sample(asked));
  }
}

}  // namespace heron
