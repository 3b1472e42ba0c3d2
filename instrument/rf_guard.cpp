#include "instrument/rf_guard.h"

#include "instrument/rf_state.h"

namespace heron {

RfGuard::RfGuard(std::vector<ScpiSession*> sources, double watchdog_s)
    : sources_(std::move(sources)),
      watchdog_s_(watchdog_s),
      fed_(std::chrono::steady_clock::now()) {
  std::erase_if(sources_, [](const ScpiSession* s) { return s->source_role() == nullptr; });
  watchdog_ = std::jthread([this](const std::stop_token& stop) { watch(stop); });
}

RfGuard::~RfGuard() {
  off();
}

void RfGuard::watch(const std::stop_token& stop) {
  std::unique_lock lock(mutex_);
  while (!stop.stop_requested()) {
    const auto limit = std::chrono::duration_cast<std::chrono::steady_clock::duration>(
        std::chrono::duration<double>(watchdog_s_));
    woken_.wait_for(lock, stop, limit / 4, [] { return false; });
    const bool is_late = std::chrono::steady_clock::now() - fed_ > limit;
    if (!is_late || asleep_.load() || tripped_.load()) continue;
    lock.unlock();
    drop_now();
    lock.lock();
  }
}

void RfGuard::feed() {
  if (tripped_.load())
    throw InstrumentError(InstrumentFault::silent, "RF", "",
                          "it was switched off in the meantime: stopped by hand, or the run stood "
                          "still for too long",
                          "Look at what held it up, then go on");
  const std::scoped_lock lock(mutex_);
  fed_ = std::chrono::steady_clock::now();
  asleep_.store(false);
}

void RfGuard::drop_now() {
  tripped_.store(true);
  for (const ScpiSession* s : sources_) s->drop_now();
}

void RfGuard::rearm() {
  {
    const std::scoped_lock lock(mutex_);
    fed_ = std::chrono::steady_clock::now();
  }
  tripped_.store(false);
}

std::vector<std::string> RfGuard::off() {
  asleep_.store(true);
  for (const ScpiSession* s : sources_) s->drop_now();
  std::vector<std::string> unconfirmed;
  for (ScpiSession* s : sources_) {
    if (switch_rf_off(*s) == RfOff::failed) unconfirmed.push_back(s->name());
  }
  return unconfirmed;
}

}  // namespace heron
