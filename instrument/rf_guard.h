#pragma once

#include <atomic>
#include <condition_variable>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

#include "instrument/scpi_session.h"

namespace heron {

/// Takes RF away, whatever happens: on request, when it goes out of scope, when nobody has fed it
/// for too long, and when the program dies. Belongs to the thread of its sessions, but for
/// `drop_now` and `has_tripped`.
class RfGuard {
 public:
  /// Sources are the generators (and other roles that put out power) among the sessions, which must
  /// outlive the guard. `watchdog_s`: how long a run may be silent.
  RfGuard(std::vector<ScpiSession*> sources, double watchdog_s);
  ~RfGuard();
  RfGuard(const RfGuard&) = delete;
  RfGuard& operator=(const RfGuard&) = delete;

  /// A sign of life. Throws InstrumentError if RF was taken away in the meantime.
  void feed();
  /// At once and from any thread, without waiting for an answer: Esc, and the watchdog.
  void drop_now();
  bool has_tripped() const { return tripped_.load(); }
  /// RF may be keyed again.
  void rearm();

  /// Switches every source off and asks whether it is, over a new line if need be. Returns the
  /// names of those that did not confirm: there RF may still be on.
  std::vector<std::string> off();

 private:
  void watch(const std::stop_token& stop);

  std::vector<ScpiSession*> sources_;
  double watchdog_s_;
  std::atomic<bool> tripped_{false};
  std::atomic<bool> asleep_{true};
  std::mutex mutex_;
  std::condition_variable_any woken_;
  std::chrono::steady_clock::time_point fed_;
  std::jthread watchdog_;
};

}  // namespace heron
